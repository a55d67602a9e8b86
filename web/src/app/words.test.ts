import { readdirSync, readFileSync } from "node:fs";
import { join, resolve } from "node:path";
import ts from "typescript";
import { expect, test } from "vitest";

const src = resolve(import.meta.dirname, "..");
const retired = new Set(
  readFileSync(resolve(src, "../../internal/words/testdata/retired.txt"), "utf8")
    .split("\n")
    .map((line) => line.trim())
    .filter((line) => line && !line.startsWith("#")),
);

/** Everything the interface says: texts of elements, and text literals. */
function textsOf(file: string): string[] {
  const tree = ts.createSourceFile(file, readFileSync(file, "utf8"), ts.ScriptTarget.Latest, true, ts.ScriptKind.TSX);
  const out: string[] = [];
  const visit = (n: ts.Node) => {
    if (ts.isJsxText(n) || ts.isStringLiteralLike(n)) out.push(n.text.replace(/\s+/g, " ").trim());
    ts.forEachChild(n, visit);
  };
  visit(tree);
  return out;
}

test("retired phrases are not said", { timeout: 60_000 }, () => {
  const files = readdirSync(src, { recursive: true, encoding: "utf8" }).filter(
    (f) => /\.tsx?$/.test(f) && !/\.(test|gen)\./.test(f),
  );
  let seen = 0;
  for (const file of files)
    for (const text of textsOf(join(src, file))) {
      seen++;
      expect(retired.has(text), `${file} says “${text}”`).toBe(false);
    }
  expect(seen).toBeGreaterThan(2500);
  expect(retired.size).toBeGreaterThan(100);
});
