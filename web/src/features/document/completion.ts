import type { Completion, CompletionContext, CompletionResult } from "@codemirror/autocomplete";
import { parseDocument } from "yaml";
import { type Schema, shapeOf } from "./schema";

/** The keys and items that lead to where a line of YAML in block style stands, by the indentation of the lines above it. */
export function pathAt(lines: string[], line: number): string[] {
  const out: string[] = [];
  const depth = (l: string) => l.length - l.trimStart().length;
  const own = lines[line] ?? "";
  const dashed = /^(\s*)((?:- +)+)/.exec(own);
  let indent = dashed ? depth(own) + (dashed[2]?.length ?? 0) : own.trim() === "" ? own.length : depth(own);
  if (dashed) {
    out.unshift("[]");
    indent = depth(own);
  }
  for (let i = line - 1; i >= 0 && indent >= 0; i--) {
    const l = lines[i] ?? "";
    if (l.trim() === "" || l.trimStart().startsWith("#")) continue;
    const item = /^(\s*)- +/.exec(l);
    const inner = item ? item[0].length : -1;
    const key = /^(?:\s*)(?:- +)*([\w.$@[\]"*-]+):(?:\s|$)/.exec(l)?.[1]?.replace(/^"|"$/g, "");
    if (item && inner < indent && key !== undefined && depth(l) < indent) {
      out.unshift("[]", key);
      indent = depth(l);
    } else if (item && depth(l) < indent) {
      out.unshift("[]");
      indent = depth(l);
    } else if (key !== undefined && depth(l) < indent) {
      out.unshift(key);
      indent = depth(l);
    } else if (key !== undefined && out[0] === "[]" && depth(l) === indent && !item) {
      out.unshift(key); // a list that stands as far in as its key
      if (indent === 0) break;
      indent = depth(l);
    }
  }
  return out;
}

/** The schemas that stand at a path: several where a value may be written in several ways. */
function schemasAt(root: Schema, path: string[]): Schema[] {
  let at: Schema[] = [root];
  for (const p of path)
    at = at
      .flatMap((s) => ways(root, s))
      .flatMap((s): Schema[] => {
        const shape = shapeOf(root, s);
        if (p === "[]") return shape.is === "list" ? [shape.items] : [];
        if (shape.is === "object") return shape.keys[p] ? [shape.keys[p]] : [];
        return shape.is === "map" ? [shape.values] : [];
      });
  return at.flatMap((s) => ways(root, s));
}

function ways(root: Schema, schema: Schema): Schema[] {
  const shape = shapeOf(root, schema);
  return shape.is === "either" ? shape.shapes.flatMap((s) => ways(root, s)) : [schema];
}

const option = (label: string, apply: string, info?: string): Completion => ({ label, apply, info, type: "property" });

/** Completes keys and values of a document from its schema, each with what it means. */
export function completionOf(root: Schema) {
  return (context: CompletionContext): CompletionResult | null => {
    const doc = context.state.doc;
    const line = doc.lineAt(context.pos);
    const before = line.text.slice(0, context.pos - line.from);
    const lines = Array.from({ length: doc.lines }, (_, i) => doc.line(i + 1).text);
    const value = /^(\s*(?:- +)*)([\w-]+):\s+([\w-]*)$/.exec(before);
    if (value) {
      const [, , key = "", typed = ""] = value;
      const options = schemasAt(root, [...pathAt(lines, line.number - 1), key]).flatMap((s) => {
        const shape = shapeOf(root, s);
        if (shape.is === "choice") return shape.values.map((v) => option(String(v), String(v)));
        return shape.is === "yesNo" ? [option("true", "true"), option("false", "false")] : [];
      });
      return options.length > 0 ? { from: context.pos - typed.length, options, validFor: /^[\w-]*$/ } : null;
    }
    const key = /^\s*(?:- +)*([\w-]*)$/.exec(before);
    if (!key || (key[1] === "" && !context.explicit)) return null;
    const options = schemasAt(root, pathAt(lines, line.number - 1)).flatMap((s) => {
      const shape = shapeOf(root, s);
      if (shape.is === "choice") return shape.values.map((v) => option(String(v), String(v)));
      if (shape.is !== "object") return [];
      return Object.entries(shape.keys).map(([k, of]) => option(k, `${k}: `, of.description));
    });
    return { from: context.pos - (key[1] ?? "").length, options, validFor: /^[\w-]*$/ };
  };
}

/** What is wrong with a text as YAML, at its places; none where it can be read. */
export function unreadable(text: string): { text: string; path: string; line: number; column: number }[] {
  return parseDocument(text, { stringKeys: true }).errors.map((e) => ({
    text: e.message.split("\n")[0]?.replace(/ at line \d+, column \d+:?$/, "") ?? "",
    path: "",
    line: e.linePos?.[0].line ?? 0,
    column: e.linePos?.[0].col ?? 0,
  }));
}
