import { useSyncExternalStore } from "react";

/** Something that was told: what, and when. */
export type Notice = { at: string; text: string };

const key = "oddtick.notices";
/** So many are kept, the newest first. */
const maxNotices = 30;

let notices: Notice[] = read();
const listeners = new Set<() => void>();

function read(): Notice[] {
  try {
    const kept: unknown = JSON.parse(globalThis.sessionStorage?.getItem(key) ?? "[]");
    return Array.isArray(kept) ? kept.filter((n) => typeof n?.at === "string" && typeof n?.text === "string") : [];
  } catch {
    return [];
  }
}

/** Keeps what was told, so that it can be read again while this tab is open. What stands there as the newest is not kept twice. */
export function keepNotice(text: string): void {
  if (text === "" || notices[0]?.text === text) return;
  notices = [{ at: new Date().toISOString(), text }, ...notices].slice(0, maxNotices);
  globalThis.sessionStorage?.setItem(key, JSON.stringify(notices));
  for (const told of listeners) told();
}

/** Forgets what was told: the next to sign in here may be somebody else. */
export function forgetNotices(): void {
  notices = [];
  globalThis.sessionStorage?.removeItem(key);
  for (const told of listeners) told();
}

/** What was told in this tab, the newest first. */
export const readNotices = (): Notice[] => notices;

/** The same for a component, drawn anew when something is told. */
export function useNotices(): Notice[] {
  return useSyncExternalStore((changed) => {
    listeners.add(changed);
    return () => listeners.delete(changed);
  }, readNotices);
}
