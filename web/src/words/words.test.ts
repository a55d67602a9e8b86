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
    if (!["rules.contradiction", "rules.note"].includes(name))
      // the second place chooses the plural
      expect(translated.match(/‹\d›/g)?.sort(), name).toEqual(text.match(/‹\d›/g)?.sort());
    if (translated !== text) other++;
  }
  expect(english.size).toBeGreaterThan(1000);
  expect(other / english.size).toBeGreaterThan(0.85);
});

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
      if (ts.isJsxAttribute(n) && ["aria-label", "label", "placeholder", "title", "alt"].includes(n.name.getText()))
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
