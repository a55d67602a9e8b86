import { type ReactNode, useId, useState } from "react";
import { AddMenu } from "../../ui/add-menu";
import { say, worded } from "../../words";
import { nameOf, type Path, pathText } from "./changes";
import { blank, fits, isMembers, type Members, type Schema, shapeOf, type Value } from "./schema";

/** What all parts of a document's editor share. */
export type Editor = {
  root: Schema;
  /** What is wrong, by the path of the value. */
  problems: Map<string, string[]>;
  /** Ids whose change has a dialog of its own, as they stand in other places too. */
  fixed: string[];
  /** Whether a value is a secret, which is never shown again once it is saved. */
  secret: (path: Path) => boolean;
  change: (path: Path, value: Value | undefined) => void;
  /** Takes the focus to an element, by its id, once the change is drawn. */
  focusNext: (id: string) => void;
};

type Props = { editor: Editor; schema: Schema; value: Value; path: Path };

/** The words of a key, which are its own. */
export const keyWords = (key: string) => key.replaceAll("_", " ");

const idOf = (path: Path) => `at-${pathText(path)}`;

/** Edits one value of a document, by a control for its shape. */
export function Node({ editor, schema, value, path }: Props) {
  const shape = shapeOf(editor.root, schema);
  switch (shape.is) {
    case "object":
      return isMembers(value) ? (
        <ObjectNode editor={editor} schema={schema} value={value} path={path} />
      ) : (
        <AnyNode editor={editor} schema={schema} value={value} path={path} />
      );
    case "list":
      return (
        <ListNode editor={editor} items={shape.items} value={Array.isArray(value) ? value : [value]} path={path} />
      );
    case "map":
      return <MapNode editor={editor} values={shape.values} value={isMembers(value) ? value : {}} path={path} />;
    case "either":
      return <EitherNode editor={editor} shapes={shape.shapes} value={value} path={path} />;
    case "choice":
      return (
        <select
          id={idOf(path)}
          className="field w-fit"
          value={String(value)}
          onChange={(e) => editor.change(path, shape.values.find((v) => String(v) === e.target.value) ?? null)}
        >
          {!shape.values.map(String).includes(String(value)) && <option value={String(value)}>{String(value)}</option>}
          {shape.values.map((v) => (
            <option key={String(v)} value={String(v)}>
              {v === null ? "NULL" : worded(v)}
            </option>
          ))}
        </select>
      );
    case "yesNo":
      return (
        <select
          id={idOf(path)}
          className="field w-fit"
          value={String(value)}
          onChange={(e) => editor.change(path, e.target.value === "true")}
        >
          <option value="true">{say.document.yes}</option>
          <option value="false">{say.document.no}</option>
        </select>
      );
    case "number":
      return (
        <input
          id={idOf(path)}
          className="field value w-32"
          inputMode="numeric"
          value={String(value)}
          onChange={(e) => {
            const n = Number(e.target.value);
            editor.change(path, e.target.value.trim() !== "" && Number.isInteger(n) ? n : e.target.value);
          }}
        />
      );
    case "any":
      return <AnyNode editor={editor} schema={schema} value={value} path={path} />;
    default:
      return <TextNode editor={editor} schema={schema} value={value} path={path} />;
  }
}

/** Keys whose texts are of several lines. */
const severalLines = ["certificate_authority"];

function TextNode({ editor, value, path }: Props) {
  const text = value === null ? "" : String(value);
  const shared = {
    id: idOf(path),
    className: "field value w-full",
    value: text,
    spellCheck: false,
    "aria-invalid": editor.problems.has(pathText(path)) || undefined,
    "aria-describedby": `${idOf(path)}-help`,
  };
  if (editor.secret(path))
    return (
      <input
        {...shared}
        type="password"
        autoComplete="off"
        placeholder={say.document.savedSecretsStay}
        onChange={(e) => editor.change(path, e.target.value)}
      />
    );
  if (text.includes("\n") || text.length > 120 || severalLines.includes(String(path.at(-1))))
    return <textarea {...shared} rows={4} onChange={(e) => editor.change(path, e.target.value)} />;
  return (
    <input
      {...shared}
      disabled={editor.fixed.includes(pathText(path))}
      onPaste={(e) => {
        // a line of input would lose the ends of lines
        const pasted = e.clipboardData.getData("text");
        if (!pasted.trim().includes("\n")) return;
        e.preventDefault();
        editor.change(path, pasted);
      }}
      onChange={(e) => editor.change(path, e.target.value)}
    />
  );
}

/** Any value, written as JSON; what cannot be read stays until it can. */
function AnyNode({ editor, value, path }: Props) {
  const [text, setText] = useState(() => JSON.stringify(value, null, 2));
  const [wrong, setWrong] = useState(false);
  return (
    <>
      <textarea
        id={idOf(path)}
        className="field value w-full"
        rows={5}
        spellCheck={false}
        aria-invalid={wrong || undefined}
        value={text}
        onChange={(e) => {
          setText(e.target.value);
          try {
            editor.change(path, JSON.parse(e.target.value));
            setWrong(false);
          } catch {
            setWrong(true);
          }
        }}
      />
      {wrong && <p className="text-[12.5px] text-unseen">{say.document.notJson}</p>}
    </>
  );
}

function Problems({ editor, path }: { editor: Editor; path: Path }) {
  const list = editor.problems.get(pathText(path));
  if (!list) return null;
  return (
    <ul className="border-l-4 border-unseen pl-2">
      {list.map((p) => (
        <li key={p}>{p}</li>
      ))}
    </ul>
  );
}

/** The keys of an object that are written, and a list of those that can be added. */
function ObjectNode({ editor, schema, value, path }: Props & { value: Members }) {
  const shape = shapeOf(editor.root, schema);
  if (shape.is !== "object") return null;
  const written = Object.keys(value);
  const missing = shape.sole && written.length > 0 ? [] : Object.keys(shape.keys).filter((k) => !written.includes(k));
  return (
    <div className="grid gap-2">
      {written.map((key) => (
        <Member
          key={key}
          editor={editor}
          name={key}
          schema={shape.keys[key] ?? {}}
          value={value[key] ?? null}
          path={[...path, key]}
          kept={shape.required.includes(key)}
        />
      ))}
      <AddMenu
        id={`${idOf(path)}-add`}
        label={say.document.add}
        items={missing.map((key) => ({ key, title: keyWords(key), help: shape.keys[key]?.description }))}
        onAdd={(key) => {
          editor.change([...path, key], blank(editor.root, shape.keys[key] ?? {}));
          editor.focusNext(idOf([...path, key]));
        }}
      />
    </div>
  );
}

type MemberProps = Props & { name: string; kept: boolean };

/** One key: its words, its control, what it means. */
function Member({ editor, name, schema, value, path, kept }: MemberProps) {
  const shape = shapeOf(editor.root, schema);
  const inner = typeof value === "object" && value !== null && shape.is !== "any";
  const remove = !kept && (
    <button
      type="button"
      className="mini"
      aria-label={say.document.removeKey(keyWords(name))}
      onClick={() => {
        editor.change(path, undefined);
        editor.focusNext(idOf(path.slice(0, -1)));
      }}
    >
      {say.document.remove}
    </button>
  );
  const help = schema.description && (
    <p id={`${idOf(path)}-help`} className="text-[12.5px] text-soft">
      {schema.description}
    </p>
  );
  if (!inner)
    return (
      <div className="grid grid-cols-[170px_minmax(0,1fr)_auto] items-start gap-x-3 max-[700px]:grid-cols-[minmax(0,1fr)_auto]">
        <label className="pt-1 font-semibold" htmlFor={idOf(path)}>
          {keyWords(name)}
        </label>
        <div className="max-[700px]:order-last max-[700px]:col-span-2">
          <Node editor={editor} schema={schema} value={value} path={path} />
          {help}
          <Problems editor={editor} path={path} />
        </div>
        {remove || <span />}
      </div>
    );
  return (
    <Part path={path} className="border-l border-line" open={path.length < 2 || isSmall(value)}>
      <summary className="cursor-pointer">
        <span className="font-semibold">{keyWords(name)}</span>{" "}
        <span className="text-[12.5px] text-soft">{summary(value)}</span>
      </summary>
      <div className="grid gap-2 py-1">
        <div className="flex items-start gap-3">
          <div className="flex-1">{help}</div>
          {remove}
        </div>
        <Problems editor={editor} path={path} />
        <Node editor={editor} schema={schema} value={value} path={path} />
      </div>
    </Part>
  );
}

/** A part that can be closed; open at first is what is small, and it stays as it is left. */
function Part({
  path,
  className,
  open,
  children,
}: {
  path: Path;
  className: string;
  open: boolean;
  children: ReactNode;
}) {
  const [shown, setShown] = useState(open);
  return (
    <details
      id={`part-${pathText(path)}`}
      className={`pl-3 ${className}`}
      open={shown}
      onToggle={(e) => setShown(e.currentTarget.open)}
    >
      {children}
    </details>
  );
}

const isSmall = (value: Value): boolean => JSON.stringify(value).length < 160;

/** What a part holds, while it is closed. */
function summary(value: Value): string {
  if (Array.isArray(value)) return say.document.entries(value.length);
  if (isMembers(value)) return Object.keys(value).map(keyWords).join(", ");
  return "";
}

/** A list: its items one below the other, each of which can be moved, copied and taken out. */
function ListNode({ editor, items, value, path }: { editor: Editor; items: Schema; value: Value[]; path: Path }) {
  const set = (next: Value[]) => editor.change(path, next);
  const move = (i: number, by: number) => {
    const next = [...value];
    const [item] = next.splice(i, 1);
    if (item === undefined) return;
    next.splice(i + by, 0, item);
    set(next);
  };
  const buttons = (i: number, name: string) => (
    <span className="flex gap-1">
      <button
        type="button"
        className="mini"
        disabled={i === 0}
        aria-label={say.document.moveUp(name)}
        onClick={() => move(i, -1)}
      >
        ↑
      </button>
      <button
        type="button"
        className="mini"
        disabled={i === value.length - 1}
        aria-label={say.document.moveDown(name)}
        onClick={() => move(i, 1)}
      >
        ↓
      </button>
      <button
        type="button"
        className="mini"
        aria-label={say.document.duplicateItem(name)}
        onClick={() => set([...value.slice(0, i + 1), renamed(value[i] ?? null, value), ...value.slice(i + 1)])}
      >
        {say.document.duplicate}
      </button>
      <button
        type="button"
        className="mini"
        aria-label={say.document.removeKey(name)}
        onClick={() => {
          set(value.filter((_, k) => k !== i));
          editor.focusNext(idOf(path));
        }}
      >
        {say.document.remove}
      </button>
    </span>
  );
  return (
    <div className="grid gap-1.5">
      {value.map((item, i) => {
        const name = itemName(item, i);
        const at = [...path, i];
        if (typeof item !== "object" || item === null)
          return (
            // biome-ignore lint/suspicious/noArrayIndexKey: an item is what stands at its place
            <div key={i} className="flex items-center gap-2">
              <label className="sr-only" htmlFor={idOf(at)}>
                {say.document.entry(i + 1)}
              </label>
              <div className="flex-1">
                <Node editor={editor} schema={items} value={item} path={at} />
                <Problems editor={editor} path={at} />
              </div>
              {buttons(i, say.document.entry(i + 1))}
            </div>
          );
        return (
          <Part
            key={pathText(at)}
            path={at}
            className="border-l-2 border-rule"
            open={value.length === 1 || isSmall(item)}
          >
            <summary className="cursor-pointer truncate">
              <span>
                <span className="value font-semibold">{name}</span>{" "}
                <span className="text-[12.5px] text-soft">{summary(item)}</span>
              </span>
            </summary>
            <div className="grid gap-2 py-1">
              <div className="flex justify-end">{buttons(i, name)}</div>
              <Problems editor={editor} path={at} />
              <Node editor={editor} schema={items} value={item} path={at} />
            </div>
          </Part>
        );
      })}
      <button
        type="button"
        id={`${idOf(path)}-add`}
        className="button w-fit"
        onClick={() => {
          set([...value, blank(editor.root, items)]);
          editor.focusNext(idOf([...path, value.length]));
        }}
      >
        {say.document.addAnEntry}
      </button>
    </div>
  );
}

const itemName = (item: Value, i: number) => (isMembers(item) && nameOf(item)) || String(i + 1);

/** A copy of an item under an id that the list has not yet. */
function renamed(item: Value, list: Value[]): Value {
  if (!isMembers(item)) return item;
  const out = { ...item };
  for (const key of ["id", "name"]) {
    const was = out[key];
    if (typeof was !== "string") continue;
    const taken = list.map((v) => (isMembers(v) ? v[key] : undefined));
    let n = 2;
    while (taken.includes(`${was}_${n}`)) n++;
    out[key] = `${was}_${n}`;
  }
  return out;
}

/** An object whose keys are free: each key and its value are edited. */
function MapNode({ editor, values, value, path }: { editor: Editor; values: Schema; value: Members; path: Path }) {
  const entries = Object.entries(value);
  const set = (next: [string, Value][]) => editor.change(path, Object.fromEntries(next));
  return (
    <div className="grid gap-1.5">
      {entries.map(([key, item], i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a key is itself edited
        <div key={i} className="grid grid-cols-[170px_minmax(0,1fr)_auto] items-start gap-x-3">
          <KeyInput
            id={`${idOf(path)}-key-${i}`}
            value={key}
            taken={entries.map(([k]) => k)}
            onKeep={(k) => set(entries.map((e, n) => (n === i ? [k, e[1]] : e)))}
          />
          <div>
            <label className="sr-only" htmlFor={idOf([...path, key])}>
              {key}
            </label>
            <Node editor={editor} schema={values} value={item} path={[...path, key]} />
            <Problems editor={editor} path={[...path, key]} />
          </div>
          <button
            type="button"
            className="mini"
            aria-label={say.document.removeKey(key)}
            onClick={() => {
              set(entries.filter((_, n) => n !== i));
              editor.focusNext(idOf(path));
            }}
          >
            {say.document.remove}
          </button>
        </div>
      ))}
      <button
        type="button"
        id={`${idOf(path)}-add`}
        className="button w-fit"
        onClick={() => {
          let n = entries.length + 1;
          while (`key${n}` in value) n++;
          set([...entries, [`key${n}`, blank(editor.root, values)]]);
          editor.focusNext(`${idOf(path)}-key-${entries.length}`);
        }}
      >
        {say.document.addAnEntry}
      </button>
    </div>
  );
}

/** A key of a map; it is kept when it is left, so that two keys are never one while typing. */
function KeyInput({
  id,
  value,
  taken,
  onKeep,
}: {
  id: string;
  value: string;
  taken: string[];
  onKeep: (key: string) => void;
}) {
  const [text, setText] = useState(value);
  const [shown, setShown] = useState(value);
  if (shown !== value) {
    setShown(value);
    setText(value);
  }
  const keep = () => {
    if (text === value) return;
    if (text === "" || taken.includes(text)) setText(value);
    else onKeep(text);
  };
  return (
    <input
      id={id}
      aria-label={say.document.keyOfEntry}
      className="field value w-full font-semibold"
      value={text}
      spellCheck={false}
      onChange={(e) => setText(e.target.value)}
      onBlur={keep}
      onKeyDown={(e) => {
        if (e.key === "Enter") keep();
      }}
    />
  );
}

/** A value that may be written in several ways: which one, and its control. */
function EitherNode({ editor, shapes, value, path }: { editor: Editor; shapes: Schema[]; value: Value; path: Path }) {
  const name = useId();
  const at = Math.max(
    0,
    shapes.findIndex((s) => fits(editor.root, s, value)),
  );
  const used = shapes[at] ?? {};
  const titles = shapes.map((s) => wayOf(editor.root, s));
  return (
    <div className="grid gap-1.5">
      <div className="flex items-start gap-2">
        <select
          aria-label={say.document.howItIsWritten}
          id={`${idOf(path)}-way`}
          name={name}
          className="field w-fit"
          value={String(at)}
          onChange={(e) => {
            const next = shapes[Number(e.target.value)];
            if (next) editor.change(path, blank(editor.root, next));
          }}
        >
          {titles.map((t, i) => (
            <option key={t} value={String(i)}>
              {t}
            </option>
          ))}
        </select>
        <div className="flex-1">
          <Node editor={editor} schema={used} value={value} path={path} />
        </div>
      </div>
    </div>
  );
}

/** What a way of writing a value is called. */
function wayOf(root: Schema, schema: Schema): string {
  const shape = shapeOf(root, schema);
  switch (shape.is) {
    case "object":
      return Object.keys(shape.keys).map(keyWords).join(", ");
    case "list":
      return say.document.several;
    case "map":
      return say.document.byLanguage;
    case "choice":
      return say.document.oneOfThese;
    default:
      return say.document.text;
  }
}
