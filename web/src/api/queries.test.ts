import { describe, expect, it } from "vitest";
import { type Mark, type RunView, withMark } from "./queries";

const mark = (seq: number, id: string, verdict = "as expected"): Mark => ({
  seq,
  case: id,
  row: "username",
  verdict,
  checks: "eeeeeee",
  headline: "",
});

const view = (marks: Mark[] = []): RunView => ({
  run: {
    number: 1,
    state: "running",
    depth: "standard",
    revision: 1,
    total: 3,
    not_selected: 0,
    done: marks.length,
    odd: 0,
    not_observed: 0,
    none: 0,
    causes: 0,
    external_changes: 0,
    started_at: "2026-11-25T00:00:00Z",
    started_by: "tester",
    widespread: [],
  },
  rows: [],
  marks,
  causes: [],
  runs: [],
});

describe("withMark", () => {
  it("adds results as they come and counts them", () => {
    let v = withMark(view(), mark(1, "a"));
    v = withMark(v, mark(2, "b", "odd"));
    v = withMark(v, mark(3, "c", "not observed"));
    expect(v.marks.map((m) => m.seq)).toEqual([1, 2, 3]);
    expect([v.run.done, v.run.odd, v.run.not_observed]).toEqual([3, 1, 1]);
  });
  it("leaves a result alone that came before, as after a lost connection", () => {
    const v = withMark(view(), mark(1, "a"));
    expect(withMark(v, mark(1, "a"))).toBe(v);
  });
  it("counts a case once that was made again", () => {
    const v = withMark(withMark(view(), mark(1, "a")), mark(2, "a", "odd"));
    expect(v.run.done).toBe(1);
    expect(v.marks).toHaveLength(2);
  });
  it("changes nothing of the view it was given", () => {
    const before = view();
    withMark(before, mark(1, "a"));
    expect(before.marks).toHaveLength(0);
  });
});
