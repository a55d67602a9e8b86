import { readdirSync, readFileSync } from "node:fs";
import { dirname, join, relative, resolve } from "node:path";
import ts from "typescript";
import { expect, test } from "vitest";

const src = resolve(import.meta.dirname, "..");
const files = readdirSync(src, { recursive: true, encoding: "utf8" }).filter(
  (f) => /\.tsx?$/.test(f) && !f.includes(".test."),
);

/** The folders, lowest first: each may import from those before it. Features know nothing of each other. */
const order = ["words", "api", "ui", "scale", "evidence", "editing", "features", "app"];
const folderOf = (file: string) => file.split("/")[0] ?? "";
const featureOf = (file: string) => file.split("/").slice(0, 2).join("/");

test("no arrow leads back up", () => {
  let arrows = 0;
  for (const file of files)
    for (const [, to] of readFileSync(join(src, file), "utf8").matchAll(/(?:from|import\() ?"(\.[^"]+)"/g)) {
      const target = relative(src, resolve(src, dirname(file), to as string));
      const [from, into] = [order.indexOf(folderOf(file)), order.indexOf(folderOf(target))];
      expect(from, file).toBeGreaterThanOrEqual(0);
      expect(into, `${file} imports ${target}`).toBeLessThanOrEqual(from);
      if (from === into && folderOf(file) === "features") expect(featureOf(target), file).toBe(featureOf(file));
      arrows++;
    }
  expect(arrows).toBeGreaterThan(150);
});

/** The members of the API whose values are sentences. */
const sentences = ["headline", "reason", "why", "words", "expected_words", "observed_words", "said"];

const takenApart = [
  "startsWith",
  "endsWith",
  "includes",
  "indexOf",
  "split",
  "match",
  "matchAll",
  "replace",
  "search",
  "slice",
  "substring",
];

test("no code depends on a sentence", () => {
  let seen = 0;
  for (const file of files) {
    const tree = ts.createSourceFile(
      file,
      readFileSync(join(src, file), "utf8"),
      ts.ScriptTarget.Latest,
      true,
      ts.ScriptKind.TSX,
    );
    const isSentence = (n: ts.Node): boolean => ts.isPropertyAccessExpression(n) && sentences.includes(n.name.text);
    const visit = (n: ts.Node) => {
      if (isSentence(n)) seen++;
      const where = `${file}:${tree.getLineAndCharacterOfPosition(n.getStart()).line + 1}`;
      if (
        ts.isBinaryExpression(n) &&
        [ts.SyntaxKind.EqualsEqualsEqualsToken, ts.SyntaxKind.ExclamationEqualsEqualsToken].includes(
          n.operatorToken.kind,
        )
      ) {
        const [a, b] = [n.left, n.right];
        const empty = (x: ts.Node) => x.getText() === '""' || x.getText() === "undefined" || x.getText() === "null";
        expect((isSentence(a) && !empty(b)) || (isSentence(b) && !empty(a)), `${where} compares a sentence`).toBe(
          false,
        );
      }
      if (ts.isPropertyAccessExpression(n) && isSentence(n.expression))
        expect(takenApart, `${where} takes a sentence apart: ${n.name.text}`).not.toContain(n.name.text);
      if (ts.isElementAccessExpression(n))
        expect(isSentence(n.argumentExpression), `${where} looks a sentence up`).toBe(false);
      ts.forEachChild(n, visit);
    };
    visit(tree);
  }
  expect(seen).toBeGreaterThan(20);
}, 60_000);
