import type { Verdict } from "../../ui/tick";

/** The case that a key leads to from the selected one. The grid holds the rows' ticks with their cases. */
export function step(
  key: string,
  grid: string[][][],
  selected: string | null,
  verdictOf: (id: string) => Verdict,
): string | null {
  const row = selected ? grid.findIndex((r) => r.some((t) => t.includes(selected))) : -1;
  const at = row < 0 ? -1 : (grid[row]?.findIndex((t) => selected !== null && t.includes(selected)) ?? -1);
  const first = (t: string[] | undefined) => t?.find((c) => verdictOf(c) === "odd") ?? t?.[0] ?? null;
  const moves = ["ArrowLeft", "ArrowRight", "ArrowUp", "ArrowDown", "Home", "End"];
  if (key === "o") {
    const flat = grid.flatMap((r) => r.flat());
    const from = selected ? flat.indexOf(selected) : -1;
    return [...flat.slice(from + 1), ...flat.slice(0, from + 1)].find((c) => verdictOf(c) === "odd") ?? null;
  }
  if (!moves.includes(key)) return null;
  if (row < 0) return first(grid[0]?.[0]);
  const line = grid[row] ?? [];
  switch (key) {
    case "ArrowLeft":
      return first(line[Math.max(0, at - 1)]);
    case "ArrowRight":
      return first(line[Math.min(line.length - 1, at + 1)]);
    case "Home":
      return first(line[0]);
    case "End":
      return first(line.at(-1));
    default: {
      const other = grid[Math.min(grid.length - 1, Math.max(0, row + (key === "ArrowUp" ? -1 : 1)))] ?? [];
      const share = line.length > 1 ? at / (line.length - 1) : 0;
      return first(other[Math.round(share * (other.length - 1))]);
    }
  }
}
