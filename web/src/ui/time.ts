import { say } from "../words";

/** A moment as year-month-day and time, in the reader's zone. */
export function moment(iso: string): string {
  const d = new Date(iso);
  const two = (n: number) => String(n).padStart(2, "0");
  return `${d.getFullYear()}-${two(d.getMonth() + 1)}-${two(d.getDate())} ${two(d.getHours())}:${two(d.getMinutes())}`;
}

/** How long ago, in few words. */
export function ago(iso: string, now = Date.now()): string {
  const s = Math.max(0, Math.round((now - new Date(iso).getTime()) / 1000));
  if (s < 60) return say.ui.justNow;
  if (s < 3600) return `${Math.floor(s / 60)} min ago`;
  if (s < 86400) return `${Math.floor(s / 3600)} h ago`;
  return moment(iso).slice(0, 10);
}

export function count(n: number, one: string, many = `${one}s`): string {
  return `${n} ${n === 1 ? one : many}`;
}

/** What a change of the rules makes of the cases. */
export function caseChanges(c: { added: number; retired: number; changed: number }): string {
  const parts = [
    c.added && say.ui.added(c.added),
    c.retired && say.ui.removed(c.retired),
    c.changed && say.ui.changed(c.changed),
  ];
  const said = parts.filter(Boolean).join(", ");
  return said ? say.ui.cases2(said) : say.ui.noCaseChanges;
}
