import { say } from "../../words";

/** One clause of an expression: a field compared with a value. */
export type Clause = { field: string; comparison: "==" | "!=" | "<" | "<=" | ">" | ">="; value: string };

export const comparisons = [
  { sign: "==", words: "is" },
  { sign: "!=", words: say.rules.isNot },
  { sign: "<", words: say.rules.isLessThan },
  { sign: "<=", words: say.rules.isAtMost },
  { sign: ">", words: say.rules.isMoreThan },
  { sign: ">=", words: say.rules.isAtLeast },
] as const;

const one =
  /^\s*([a-z][a-z0-9_]*)\s*(==|!=|<=|>=|<|>)\s*("(?:[^"\\]|\\.)*"|'(?:[^'\\]|\\.)*'|-?\d+(?:\.\d+)?|true|false)\s*$/;
const bare = /^\s*(!?)\s*([a-z][a-z0-9_]*)\s*$/;

/** Reads CEL as clauses, or null when it is more than clauses joined by one sign. */
export function readClauses(expression: string): { every: boolean; clauses: Clause[] } | null {
  const parts = split(expression);
  if (!parts) return null;
  const clauses: Clause[] = [];
  for (const part of parts.list) {
    const m = one.exec(part);
    const b = bare.exec(part);
    if (m) clauses.push({ field: m[1] ?? "", comparison: m[2] as Clause["comparison"], value: unquote(m[3] ?? "") });
    else if (b) clauses.push({ field: b[2] ?? "", comparison: "==", value: b[1] ? "false" : "true" });
    else return null;
  }
  return { every: parts.every, clauses };
}

/** Cuts at && or at ||, outside quotation marks; null when both are used or there are parentheses. */
function split(expression: string): { every: boolean; list: string[] } | null {
  const list: string[] = [];
  let sign = "";
  let part = "";
  for (let i = 0; i < expression.length; i++) {
    const c = expression[i] as string;
    if (c === '"' || c === "'") {
      let end = i + 1;
      while (end < expression.length && expression[end] !== c) end += expression[end] === "\\" ? 2 : 1;
      part += expression.slice(i, end + 1);
      i = end;
      continue;
    }
    if (c === "(" || c === ")" || c === "?") return null;
    const two = expression.slice(i, i + 2);
    if (two === "&&" || two === "||") {
      if (sign && sign !== two) return null;
      sign = two;
      list.push(part);
      part = "";
      i++;
      continue;
    }
    part += c;
  }
  list.push(part);
  return { every: sign !== "||", list };
}

function unquote(text: string): string {
  if (text[0] !== '"' && text[0] !== "'") return text;
  return text.slice(1, -1).replace(/\\(.)/g, "$1");
}

/** Writes clauses as CEL; a value is quoted unless its field is a number or a checkbox. */
export function joinClauses(clauses: Clause[], every: boolean, kinds: Record<string, string>): string {
  return clauses.map((c) => write(c, kinds[c.field] ?? "text")).join(every ? " && " : " || ");
}

function write(c: Clause, kind: string): string {
  if (kind === "checkbox") {
    const on = (c.value !== "false" && c.value !== "") === (c.comparison !== "!=");
    return on ? c.field : `!${c.field}`;
  }
  const isNumber = kind === "number" && /^-?\d+(\.\d+)?$/.test(c.value);
  const value = isNumber ? c.value : `"${c.value.replace(/\\/g, "\\\\").replace(/"/g, '\\"')}"`;
  return `${c.field} ${c.comparison} ${value}`;
}
