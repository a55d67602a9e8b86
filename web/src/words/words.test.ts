import { readdirSync, readFileSync } from "node:fs";
import { join, resolve } from "node:path";
import ts from "typescript";
import { expect, test } from "vitest";
import { de } from "./de";
import { en } from "./en";

type Entry = string | ((...parts: string[]) => string);

/** All texts of a language, by area and name, with a word in each place. */
function texts(language: object): Map<string, string> {
  const out = new Map<string, string>();
  for (const [area, entries] of Object.entries(language as Record<string, Record<string, Entry>>))
    for (const [name, entry] of Object.entries(entries))
      out.set(`${area}.${name}`, typeof entry === "string" ? entry : entry("‹1›", "‹2›", "‹3›", "‹4›"));
  return out;
}

test("each language has every text, with the same places", () => {
  const english = texts(en);
  const german = texts(de);
  expect([...german.keys()].sort()).toEqual([...english.keys()].sort());
  let other = 0;
  for (const [name, text] of english) {
    const translated = german.get(name) ?? "";
    expect(translated.trim(), name).not.toBe("");
    expect(translated.match(/‹\d›/g)?.sort(), name).toEqual(text.match(/‹\d›/g)?.sort());
    if (translated !== text) other++;
  }
  expect(english.size).toBeGreaterThan(1000);
  expect(other / english.size).toBeGreaterThan(0.85);
});

/** Attributes whose values are said. */
const said = ["aria-label", "label", "placeholder", "title", "alt", "options"];

/** Whether an expression is shown to people: it is a child of an element, or the value of a label or title. */
function isSaid(n: ts.Node): boolean {
  for (let at = n.parent; at && !ts.isSourceFile(at); at = at.parent) {
    // what is handed to a call is shown by whatever is called, or is no text
    if (ts.isCallExpression(at) || ts.isArrowFunction(at)) return false;
    if (ts.isBinaryExpression(at) && /^[!=]==?$/.test(at.operatorToken.getText())) return false;
    if (ts.isPropertyAssignment(at) && at.name === n) return false;
    if (ts.isJsxAttribute(at)) return said.includes(at.name.getText());
    if (ts.isJsxExpression(at) && ts.isJsxElement(at.parent)) return true;
  }
  return false;
}

test("no view says a text that is not in the catalogue", { timeout: 60_000 }, () => {
  const src = resolve(import.meta.dirname, "..");
  const files = readdirSync(src, { recursive: true, encoding: "utf8" }).filter((f) => f.endsWith(".tsx"));
  let seen = 0;
  for (const file of files) {
    const tree = ts.createSourceFile(
      file,
      readFileSync(join(src, file), "utf8"),
      ts.ScriptTarget.Latest,
      true,
      ts.ScriptKind.TSX,
    );
    const visit = (n: ts.Node) => {
      if (ts.isJsxText(n)) {
        seen++;
        expect(n.text, `${file} says`).not.toMatch(/[A-Za-z]{2}/);
      }
      if (ts.isTemplateExpression(n) && isSaid(n))
        for (const part of [n.head.text, ...n.templateSpans.map((s) => s.literal.text)])
          expect(part, `${file}: ${n.getText()}`).not.toMatch(/[A-Za-z]{2} | {1,2}[a-z]{2}/);
      if (ts.isStringLiteral(n) && isSaid(n)) expect(n.text, `${file} says`).not.toMatch(/[a-z]{2} [a-z]/);
      if (ts.isJsxAttribute(n) && said.includes(n.name.getText()))
        expect(
          n.initializer && ts.isStringLiteral(n.initializer) && /[a-z]{2} /.test(n.initializer.text),
          `${file}: ${n.getText()}`,
        ).toBeFalsy();
      ts.forEachChild(n, visit);
    };
    visit(tree);
  }
  expect(seen).toBeGreaterThan(1000);
});
