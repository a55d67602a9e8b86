import { Document, parseDocument } from "yaml";
import type { Edit } from "../../editing/edits";
import { isMembers, type Members, type Value } from "./schema";

/** Where a value stands in a document: keys, and the numbers of items. */
export type Path = readonly (string | number)[];

/** A path as edits and problems name it, such as fields[0].rules[1].length.max. */
export const pathText = (path: Path): string =>
  path
    .map((p) => (typeof p === "number" ? `[${p}]` : `.${p}`))
    .join("")
    .replace(/^\./, "");

/** The value at a path; undefined where there is none. */
export const valueAt = (value: Value | undefined, path: Path): Value | undefined =>
  path.reduce<Value | undefined>(
    (v, p) => (Array.isArray(v) ? v[p as number] : isMembers(v) ? v[p as string] : undefined),
    value,
  );

/** The value with another one at a path; undefined takes the key or the item out. */
export function withAt(value: Value, path: Path, next: Value | undefined): Value {
  const [first, ...rest] = path;
  if (first === undefined) return next ?? null;
  const inner = (of: Value | undefined) => (rest.length === 0 ? next : withAt(of ?? {}, rest, next));
  if (Array.isArray(value)) {
    const item = inner(value[first as number]);
    return item === undefined ? value.filter((_, i) => i !== first) : value.map((v, i) => (i === first ? item : v));
  }
  const out: Members = { ...(isMembers(value) ? value : {}) };
  const member = inner(out[first]);
  if (member === undefined) delete out[first];
  else out[first] = member;
  return out;
}

const same = (a: Value | undefined, b: Value | undefined) => JSON.stringify(a) === JSON.stringify(b);
const plain = /^[A-Za-z0-9_-]+$/;

/** The edits that make one value of the other, as small as can be, so that comments beside them stay. */
export function changes(was: Value | undefined, is: Value, path: Path = []): Edit[] {
  if (same(was, is)) return [];
  if (isMembers(was) && isMembers(is)) {
    const keys = [...Object.keys(was), ...Object.keys(is).filter((k) => !(k in was))];
    if (keys.every((k) => plain.test(k)))
      return keys.flatMap((k): Edit[] => {
        const next = is[k];
        if (next === undefined) return [{ do: "remove", path: pathText([...path, k]) }];
        return changes(was[k], next, [...path, k]);
      });
  }
  if (Array.isArray(was) && Array.isArray(is)) {
    if (was.length <= is.length && was.every((v, i) => same(v, is[i])))
      return is.slice(was.length).map((v): Edit => ({ do: "insert", path: pathText(path), value: v, at: -1 }));
    if (was.length === is.length) return is.flatMap((v, i) => changes(was[i], v, [...path, i]));
    const gone = was.findIndex((v, i) => !same(v, is[i]));
    if (was.length === is.length + 1 && same(was.slice(gone + 1), is.slice(gone)))
      return [{ do: "remove", path: pathText([...path, gone]) }];
  }
  return [{ do: "set", path: pathText(path), value: is }];
}

/** The path of a problem in a document, which names items by their number, id or name. */
export function pathOf(value: Value, text: string): Path {
  const out: (string | number)[] = [];
  let at: Value | undefined = value;
  for (const [, item, key] of text.matchAll(/\[([^\]]*)\]|([^.[\]]+)/g)) {
    if (item !== undefined && Array.isArray(at)) {
      const list: Value[] = at;
      const number = /^\d+$/.test(item) ? Number(item) : list.findIndex((v) => isMembers(v) && nameOf(v) === item);
      if (number < 0) break;
      out.push(number);
      at = list[number];
    } else if (key !== undefined) {
      out.push(key);
      at = isMembers(at) ? at[key] : undefined;
    }
  }
  return out;
}

/** What an item is called by: its id, its name, or the kind of a rule. */
export function nameOf(item: Members): string {
  for (const key of ["id", "name", "value", "table", "page", "column"]) {
    const v = item[key];
    if (typeof v === "string" && v !== "") return v;
  }
  const [only, ...others] = Object.keys(item);
  return only !== undefined && others.length === 0 ? only : "";
}

/** The text of a document with other values, where all that stays the same, comments too, stays as it is. */
export function written(text: string, was: Value, is: Value): string {
  if (same(was, is)) return text;
  const doc = parseDocument(text, { stringKeys: true });
  if (doc.contents === null) return new Document(is).toString();
  put(doc, was, is, []);
  return doc.toString({ lineWidth: 0, flowCollectionPadding: false });
}

function put(doc: Document, was: Value | undefined, is: Value, path: Path) {
  if (same(was, is)) return;
  if (isMembers(was) && isMembers(is)) {
    for (const k of Object.keys(was)) if (!(k in is)) doc.deleteIn([...path, k]);
    for (const [k, v] of Object.entries(is)) put(doc, was[k], v, [...path, k]);
  } else if (Array.isArray(was) && Array.isArray(is) && was.length === is.length)
    for (const [i, v] of is.entries()) put(doc, was[i], v, [...path, i]);
  else if (path.length > 0) doc.setIn(path, doc.createNode(is));
}
