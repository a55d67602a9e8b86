import type { CaseBrief } from "../../api/cases";

/** A case as a line of the list. field is the label of its row. */
export type Line = CaseBrief & { id: string; field: string };

export type Filters = { text: string; row: string; technique: string; verdict: string; tag: string; driver: string };

/** The lines that all filters let through. Every word of the text must be found in title, id, field, rules or headline. */
export function filtered(lines: Line[], f: Filters): Line[] {
  const words = f.text
    .toLowerCase()
    .split(/\s+/)
    .filter((w) => w !== "");
  if (words.length === 0 && !f.row && !f.technique && !f.verdict && !f.tag && !f.driver) return lines;
  return lines.filter((l) => {
    if (f.row && l.field !== f.row) return false;
    if (f.technique && l.technique !== f.technique) return false;
    if (f.driver && l.driver !== f.driver) return false;
    if (f.tag && !(l.tags ?? []).includes(f.tag)) return false;
    if (f.verdict && (l.skipped ? "skipped" : (l.verdict ?? "never run")) !== f.verdict) return false;
    if (words.length === 0) return true;
    const text = textOf(l);
    return words.every((w) => text.includes(w));
  });
}

const texts = new WeakMap<Line, string>();

function textOf(l: Line): string {
  let text = texts.get(l);
  if (text === undefined) {
    text = `${l.title}\n${l.id}\n${l.field}\n${(l.breaks ?? []).join(" ")}\n${l.headline ?? ""}`.toLowerCase();
    texts.set(l, text);
  }
  return text;
}

export type SortKey = "verdict" | "title" | "row" | "technique" | "expect" | "depth" | "tags";

const ranks: Record<string, number> = {
  odd: 0,
  "not observed": 1,
  "as expected": 3,
  "does not apply": 4,
  quick: 0,
  standard: 1,
  thorough: 2,
};

/** The lines in the order of one column; those alike keep their order. Odd ones are first of the verdicts. */
export function sorted(lines: Line[], key: SortKey | "", down: boolean): Line[] {
  if (key === "") return lines;
  const of = (l: Line): string | number => {
    switch (key) {
      case "verdict":
        return l.skipped ? 5 : (ranks[l.verdict ?? ""] ?? 2);
      case "depth":
        return ranks[l.depth] ?? 0;
      case "row":
        return l.field;
      case "tags":
        return (l.tags ?? []).join(" ");
      default:
        return l[key];
    }
  };
  const keyed = lines.map((l) => ({ l, k: of(l) }));
  const sign = down ? -1 : 1;
  keyed.sort(
    (a, b) => (typeof a.k === "number" ? a.k - (b.k as number) : a.k < (b.k as string) ? -1 : a.k > b.k ? 1 : 0) * sign,
  );
  return keyed.map((x) => x.l);
}
