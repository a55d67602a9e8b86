import { useCallback, useMemo } from "react";
import { useSearchParams } from "react-router";
import { type Depth, depths, type Plan } from "../api/cases";

export type View = "scales" | "list" | "decisions" | "combinations" | "access" | "coverage" | "sheet";
export const views: [View, string][] = [
  ["scales", "Scales"],
  ["list", "List"],
  ["decisions", "Decision tables"],
  ["combinations", "Combinations"],
  ["access", "Access"],
  ["coverage", "Coverage"],
];

const whole = (text: string | null, otherwise: number) => {
  const n = Number(text);
  return text !== null && Number.isInteger(n) && n >= 0 ? n : otherwise;
};

/** What one looks at: it lives in the address, so that it can be linked to and survives a reload. */
export function useView() {
  const [search, setSearch] = useSearchParams();
  const change = useCallback(
    (changes: Record<string, string | null>) =>
      setSearch(
        (old) => {
          const next = new URLSearchParams(old);
          for (const [key, value] of Object.entries(changes)) {
            if (value === null || value === "") next.delete(key);
            else next.set(key, value);
          }
          return next;
        },
        { replace: true },
      ),
    [setSearch],
  );
  const depth = (depths.find((d) => d === search.get("depth")) ?? "standard") as Depth;
  const strength = Math.min(6, Math.max(1, whole(search.get("strength"), 2)));
  const atMost = whole(search.get("at_most"), 0);
  const plan: Plan = useMemo(() => ({ depth, strength, atMost }), [depth, strength, atMost]);
  const view = ([...views.map(([v]) => v), "sheet"] as View[]).find((v) => v === search.get("view")) ?? "scales";
  return { search, change, plan, view, selected: search.get("case") };
}
