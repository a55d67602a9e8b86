import { en } from "./en";

/** The texts of a language. */
export type Words = typeof en;

/** The languages that the interface speaks, by tag, with their own names. */
export const languages = { en: "English", de: "Deutsch" } as const;

export type Language = keyof typeof languages;

const key = "oddtick.language";

/** The language that was chosen; English where none was. */
export function language(): Language {
  const kept = globalThis.localStorage?.getItem(key) ?? null;
  return kept !== null && kept in languages ? (kept as Language) : "en";
}

/** All that the interface says. It is in the chosen language once loadWords is done, before any view is loaded. */
export let say: Words = en;

/** A code of the API in words; a code without words as it is. */
export const worded = (code: string): string => (say.codes as Record<string, string>)[code] ?? code;

/** Loads the texts of the chosen language. */
export async function loadWords(): Promise<void> {
  const chosen = language();
  document.documentElement.lang = chosen;
  if (chosen === "de") say = (await import("./de")).de;
}

/** Chooses a language; the page is loaded again, as each view takes its texts when it is loaded. */
export function chooseLanguage(chosen: Language): void {
  if (chosen === "en") localStorage.removeItem(key);
  else localStorage.setItem(key, chosen);
  location.reload();
}
