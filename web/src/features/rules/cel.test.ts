import { expect, test } from "vitest";
import { joinClauses, readClauses } from "./cel";

const kinds = { plots: "number", helper: "single_choice", terms: "checkbox" };

test("an expression of clauses is read and written back the same", () => {
  for (const text of [
    'plots <= 2 || helper == "yes"',
    "plots > 1 && plots < 4 && terms",
    '!terms || helper != "a && b"',
    'helper == "say \\"x\\""',
  ]) {
    const read = readClauses(text);
    expect(read).not.toBeNull();
    expect(joinClauses(read?.clauses ?? [], read?.every ?? true, kinds)).toBe(text);
  }
});

test("what is more than clauses is left as text", () => {
  for (const text of [
    "(plots <= 2) || terms",
    "plots + 1 < 3",
    'terms && plots > 1 || helper == "x"',
    "size(helper) > 2",
    "plots <",
  ])
    expect(readClauses(text), text).toBeNull();
});
