import { describe, expect, it } from "vitest";
import { worst } from "../../scale/row";
import type { Verdict } from "../../ui/tick";
import { step } from "./step";

const grid = [[["a1"], ["a2", "a2x"], ["a3"]], [["b1"]], [["c1"], ["c2"], ["c3"], ["c4"], ["c5"]]];
const odd = new Set(["a2x", "c4"]);
const verdict = (id: string): Verdict => (odd.has(id) ? "odd" : "as expected");
const go = (key: string, from: string | null) => step(key, grid, from, verdict);

describe("step", () => {
  it("begins at the first tick", () => {
    expect(go("ArrowRight", null)).toBe("a1");
    expect(go("ArrowDown", null)).toBe("a1");
  });
  it("moves along the row and stays at its ends", () => {
    expect(go("ArrowRight", "a1")).toBe("a2x");
    expect(go("ArrowRight", "a2")).toBe("a3");
    expect(go("ArrowRight", "a3")).toBe("a3");
    expect(go("ArrowLeft", "a1")).toBe("a1");
    expect(go("Home", "c4")).toBe("c1");
    expect(go("End", "c2")).toBe("c5");
  });
  it("moves between rows to about the same place", () => {
    expect(go("ArrowDown", "a3")).toBe("b1");
    expect(go("ArrowDown", "b1")).toBe("c1");
    expect(go("ArrowUp", "c5")).toBe("b1");
    expect(go("ArrowDown", "c5")).toBe("c5");
  });
  it("goes round the odd ticks", () => {
    expect(go("o", null)).toBe("a2x");
    expect(go("o", "a2x")).toBe("c4");
    expect(go("o", "c4")).toBe("a2x");
    expect(step("o", grid, null, () => "as expected")).toBeNull();
  });
  it("leaves other keys alone", () => {
    expect(go("x", "a1")).toBeNull();
    expect(go("Enter", "a1")).toBeNull();
  });
  it("has nowhere to go without rows", () => {
    expect(step("ArrowRight", [], null, verdict)).toBeNull();
  });
});

describe("worst", () => {
  it("takes the most telling verdict", () => {
    expect(worst(["as expected", "odd", "not observed"])).toBe("odd");
    expect(worst(["as expected", "not observed"])).toBe("not observed");
    expect(worst(["as expected", "to come"])).toBe("as expected");
    expect(worst(["to come", "to come"])).toBe("to come");
    expect(worst(["as expected"])).toBe("as expected");
    expect(worst([])).toBe("does not apply");
  });
});
