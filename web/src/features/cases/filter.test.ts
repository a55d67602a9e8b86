import { describe, expect, it } from "vitest";
import { ownID, withChange } from "./aside";
import { newPairs } from "./combinations";
import { type Filters, filtered, type Line, sorted } from "./filter";

const line = (id: string, more: Partial<Line> = {}): Line => ({
  id,
  title: `Bed: ${id}`,
  row: "bed",
  field: "Bed",
  technique: "boundary value analysis",
  depth: "quick",
  driver: "http",
  expect: "accepted",
  steps: 1,
  ...more,
});
const none: Filters = { text: "", row: "", technique: "", verdict: "", tag: "", driver: "" };
const lines = [
  line("a", { verdict: "odd", headline: "Accepted, and cut short", tags: ["smoke"] }),
  line("b", { expect: "rejected by the server", breaks: ["bed.length"], depth: "thorough" }),
  line("c", { skipped: "later", verdict: "as expected", field: "Crop", depth: "standard" }),
];
const ids = (list: Line[]) => list.map((l) => l.id).join("");

describe("filtered", () => {
  it("finds every word in title, id, rules and headline", () => {
    expect(ids(filtered(lines, none))).toBe("abc");
    expect(ids(filtered(lines, { ...none, text: "CUT accepted" }))).toBe("a");
    expect(ids(filtered(lines, { ...none, text: "bed.length" }))).toBe("b");
    expect(ids(filtered(lines, { ...none, text: "bed nothing" }))).toBe("");
  });
  it("joins its filters", () => {
    expect(ids(filtered(lines, { ...none, verdict: "skipped" }))).toBe("c");
    expect(ids(filtered(lines, { ...none, verdict: "never run" }))).toBe("b");
    expect(ids(filtered(lines, { ...none, tag: "smoke", row: "Bed" }))).toBe("a");
    expect(ids(filtered(lines, { ...none, tag: "smoke", row: "Crop" }))).toBe("");
  });
});

describe("sorted", () => {
  it("puts odd ones first, and what is off last", () => {
    expect(ids(sorted(lines, "verdict", false))).toBe("abc");
    expect(ids(sorted(lines, "verdict", true))).toBe("cba");
  });
  it("knows the order of depths, and keeps the order of those alike", () => {
    expect(ids(sorted(lines, "depth", false))).toBe("acb");
    expect(ids(sorted(lines, "technique", true))).toBe("abc");
  });
});

describe("newPairs", () => {
  it("names the pairs that no row before has", () => {
    const rows = newPairs([{ levels: [0, 0, 1] }, { levels: [0, 1, 1] }]);
    expect([...(rows[0] ?? [])]).toEqual(["0,1", "0,2", "1,2"]);
    expect([...(rows[1] ?? [])]).toEqual(["0,1", "1,2"]);
  });
});

describe("withChange", () => {
  it("keeps what was there, and nothing when nothing is left", () => {
    expect(withChange("x", { case: "x", tags: ["a"] }, { skip: "later" })).toEqual({
      case: "x",
      tags: ["a"],
      skip: "later",
    });
    expect(withChange("x", { case: "x", skip: "later" }, { skip: "" })).toBeNull();
    expect(withChange("x", { case: "x", added: true }, { skip: "" })).not.toBeNull();
  });
});

describe("ownID", () => {
  it("is made of the title, and another where it is taken", () => {
    expect(ownID("shed", "Market day!", [])).toBe("shed/own.market_day/http");
    expect(ownID("shed", "Market day", ["shed/own.market_day/http"])).toBe("shed/own.market_day_2/http");
    expect(ownID("shed", "…", [])).toBe("shed/own.case/http");
  });
});
