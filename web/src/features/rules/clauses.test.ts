import { expect, test } from "vitest";
import { type Clause, comparisons, joinClauses, readClauses } from "./cel";

const kinds = { n: "number", t: "text", c: "checkbox", d: "date" };

test("every comparison with every kind of value comes back as it was", () => {
  for (const every of [true, false])
    for (const { sign } of comparisons) {
      const clauses: Clause[] = [
        { field: "n", comparison: sign, value: "2.5" },
        { field: "t", comparison: sign, value: 'a "b" \\ c && d' },
        { field: "d", comparison: sign, value: "2026-01-01" },
      ];
      const read = readClauses(joinClauses(clauses, every, kinds));
      expect(read).toEqual({ every, clauses });
    }
});

test("a checkbox is written as itself or its opposite", () => {
  const clause = (comparison: Clause["comparison"], value: string) =>
    joinClauses([{ field: "c", comparison, value }], true, kinds);
  expect(clause("==", "true")).toBe("c");
  expect(clause("==", "false")).toBe("!c");
  expect(clause("!=", "true")).toBe("!c");
  expect(clause("!=", "false")).toBe("c");
  expect(readClauses("!c")).toEqual({ every: true, clauses: [{ field: "c", comparison: "==", value: "false" }] });
});

test("a number's value that is none is kept as a text, so that the server says what is wrong", () => {
  expect(joinClauses([{ field: "n", comparison: "==", value: "many" }], true, kinds)).toBe('n == "many"');
});

test("one clause alone holds as every one", () => {
  expect(readClauses("n < 3")?.every).toBe(true);
  expect(readClauses("n < 3 || n > 5")?.every).toBe(false);
});
