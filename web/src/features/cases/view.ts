import { useCallback, useEffect, useMemo, useRef } from "react";
import { useSearchParams } from "react-router";
import { type Depth, depths, type Plan } from "../../api/cases";
import { say } from "../../words";

export type View = "scales" | "list" | "decisions" | "combinations" | "access" | "coverage" | "sheet";
export const views: [View, string][] = [
  ["scales", say.cases.scales],
  ["list", say.cases.list],
  ["decisions", say.cases.decisionTables],
  ["combinations", say.cases.combinations2],
  ["access", say.cases.access],
  ["coverage", say.cases.coverage],
];

const whole = (text: string | null, otherwise: number) => {
  const n = Number(text);
  return text !== null && Number.isInteger(n) && n >= 0 ? n : otherwise;
};

/** Keys of the address with their values; null takes a key away. */
export type Changes = Record<string, string | null>;
export type Change = (changes: Changes | ((now: URLSearchParams) => Changes)) => void;

/** What one looks at: it lives in the address, so that it can be linked to and survives a reload. */
export function useView() {
  const [search, setSearch] = useSearchParams();
  // several changes may come before the address has followed the first
  const latest = useRef(search);
  useEffect(() => {
    latest.current = search;
  }, [search]);
  const change = useCallback(
    (changes: Changes | ((now: URLSearchParams) => Changes)) => {
      const next = new URLSearchParams(latest.current);
      for (const [key, value] of Object.entries(typeof changes === "function" ? changes(next) : changes)) {
        if (value === null || value === "") next.delete(key);
        else next.set(key, value);
      }
      latest.current = next;
      setSearch(next, { replace: true });
    },
    [setSearch],
  );
  const depth = (depths.find((d) => d === search.get("depth")) ?? "standard") as Depth;
  const strength = Math.min(6, Math.max(1, whole(search.get("strength"), 2)));
  const atMost = whole(search.get("at_most"), 0);
  const large = search.get("large") === "1";
  const plan: Plan = useMemo(() => ({ depth, strength, atMost, large }), [depth, strength, atMost, large]);
  const view = ([...views.map(([v]) => v), "sheet"] as View[]).find((v) => v === search.get("view")) ?? "scales";
  return { search, change, plan, view, selected: search.get("case") };
}
