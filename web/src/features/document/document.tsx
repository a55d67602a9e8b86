import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useEffect, useMemo, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { parse } from "yaml";
import { api, need, type Problem, type ProblemPart } from "../../api/client";
import { TextEditor } from "../../editing/text-editor";
import { Leaving } from "../../ui/leaving";
import { Toolbar, Views } from "../../ui/toolbar";
import { say } from "../../words";
import { nameOf, type Path, pathOf, pathText, withAt } from "./changes";
import { completionOf } from "./completion";
import { keyWords, Node } from "./node";
import { isMembers, type Schema, type Value } from "./schema";

export function useSchema(document: "form" | "site") {
  return useQuery({
    queryKey: ["schema", document],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: async () =>
      (await need(api.GET("/api/schemas/{document}", { params: { path: { document } } }))) as unknown as Schema,
  });
}

/** What a document's text holds; nothing where it cannot be read. */
export function read(text: string): Value {
  try {
    return parse(text, { stringKeys: true }) as Value; // null: is a key like any other
  } catch {
    return {};
  }
}

/** Whether the document is shown as its keys or as its text. */
export function useAsText(): [boolean, (text: boolean) => void] {
  const [search, setSearch] = useSearchParams();
  return [search.get("as") === "text", (text) => setSearch(text ? { as: "text" } : {}, { replace: true })];
}

/** A value that changes only once it has been left alone for a while, in ms. */
export function useSettled<T>(value: T, ms = 400): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), ms);
    return () => clearTimeout(timer);
  }, [value, ms]);
  return settled;
}

/** What is wrong, as a refusal tells it. */
export function problemsOf(refused: Problem | null): ProblemPart[] {
  if (!refused) return [];
  return refused.parts.length > 0 ? refused.parts : [{ text: refused.message, path: "", line: 0, column: 0 }];
}

/**
 * The text that is being edited, with what it came with (a revision, a version). A newer one takes its place unless something is unsaved,
 * so that nothing is lost and nobody's change is undone; what was saved here is told by saving().
 */
export function useEdited<T>(text: string, came: T) {
  const [from, setFrom] = useState({ text, came });
  const original = useMemo(() => read(from.text), [from.text]);
  const [value, setValue] = useState(original);
  const [draft, setDraft] = useState(text);
  const saving = useRef(false);
  const unsaved = draft !== from.text || JSON.stringify(value) !== JSON.stringify(original);
  const begin = (text: string, came: T) => {
    setFrom({ text, came });
    setValue(read(text));
    setDraft(text);
  };
  if ((text !== from.text || came !== from.came) && (saving.current || !unsaved)) {
    saving.current = false;
    begin(text, came);
  }
  return {
    ...from,
    original,
    value,
    setValue,
    draft,
    setDraft,
    discard: () => begin(text, came),
    saving: (is: boolean) => {
      saving.current = is;
    },
    newer: came !== from.came,
  };
}

type Props = {
  schema: Schema;
  value: Value;
  text: string;
  asText: boolean;
  /** What is wrong with what is being edited. */
  problems: ProblemPart[];
  /** What saving would come to. */
  outlook: ReactNode;
  /** Buttons that go back and forth between what was saved. */
  history?: ReactNode;
  unsaved: boolean;
  saving: boolean;
  fixed: string[];
  secret?: (path: Path) => boolean;
  onAsText: (text: boolean) => void;
  onValue: (value: Value) => void;
  onText: (text: string) => void;
  onSave: () => void;
  onDiscard: () => void;
};

/** Takes the focus to an element once it is drawn: to the element of an id, or to the button that adds to it. */
function useFocusNext(): (id: string) => void {
  const wanted = useRef("");
  useEffect(() => {
    if (wanted.current === "") return;
    const at = document.getElementById(wanted.current) ?? document.getElementById(`${wanted.current}-add`);
    wanted.current = "";
    at?.focus();
    at?.scrollIntoView({ block: "nearest" });
  });
  return (id) => {
    wanted.current = id;
  };
}

/** A whole document: every key by a control of its own, or as text. */
export function DocumentEditor(p: Props) {
  const problems = useMemo(() => {
    const out = new Map<string, string[]>();
    for (const part of p.problems) {
      const at = pathText(pathOf(p.value, part.path));
      out.set(at, [...(out.get(at) ?? []), part.text]);
    }
    return out;
  }, [p.problems, p.value]);
  const complete = useMemo(() => completionOf(p.schema), [p.schema]);
  const focusNext = useFocusNext();
  useEffect(() => {
    const listen = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey) || e.key.toLowerCase() !== "s") return;
      e.preventDefault();
      if (p.unsaved && !p.saving) p.onSave();
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  });
  return (
    <div className="flex min-h-0 flex-col bg-panel lg:h-full">
      <Toolbar>
        <Views
          label={say.document.howItIsShown}
          views={[
            ["keys", say.document.asKeys],
            ["text", say.document.asText],
          ]}
          shown={p.asText ? "text" : "keys"}
          show={(view) => p.onAsText(view === "text")}
          blocked={p.unsaved ? say.document.saveFirst : undefined}
        />
        <p role="status" className="min-w-0 flex-1 truncate text-right text-[12.5px] text-soft">
          {p.outlook}
        </p>
        {p.history}
        <button type="button" className="button" disabled={!p.unsaved || p.saving} onClick={p.onDiscard}>
          {say.document.discard}
        </button>
        <button
          type="button"
          className="button button-lead"
          disabled={!p.unsaved || p.saving}
          title="Ctrl+S"
          onClick={p.onSave}
        >
          {p.saving ? say.document.saving : say.document.save}
        </button>
      </Toolbar>
      <Leaving unsaved={p.unsaved} />
      {p.problems.length > 0 && (
        <div role="alert" className="border-b border-line border-l-4 border-l-unseen px-5 py-2">
          <ul>
            {p.problems.slice(0, 8).map((x) => (
              <li key={`${x.path} ${x.text}`}>
                {p.asText ? say.document.atLine(x.line, x.text) : <ProblemLink part={x} value={p.value} />}
              </li>
            ))}
          </ul>
        </div>
      )}
      {p.asText ? (
        <main className="flex min-h-0 flex-1 flex-col px-5 py-3">
          <TextEditor
            text={p.text}
            label={say.document.textOfTheDocument}
            problems={p.problems}
            complete={complete}
            onChange={p.onText}
          />
        </main>
      ) : (
        <div className="grid min-h-0 flex-1 grid-cols-[220px_minmax(0,1fr)] max-[800px]:grid-cols-1">
          <Outline value={p.value} />
          <main tabIndex={0} className="min-h-0 overflow-auto px-5 py-3">
            <div className="max-w-4xl">
              <Node
                editor={{
                  root: p.schema,
                  problems,
                  fixed: p.fixed,
                  secret: p.secret ?? (() => false),
                  change: (path, value) => p.onValue(withAt(p.value, path, value)),
                  focusNext,
                }}
                schema={p.schema}
                value={p.value}
                path={[]}
              />
            </div>
          </main>
        </div>
      )}
    </div>
  );
}

/** The parts of a document, each of which leads to where it is edited. */
function Outline({ value }: { value: Value }) {
  const parts = isMembers(value) ? Object.entries(value).filter(([, v]) => typeof v === "object" && v !== null) : [];
  return (
    <nav
      aria-label={say.document.parts}
      className="min-h-0 overflow-auto border-r border-line bg-ground px-4 py-3 max-[800px]:hidden"
    >
      <ul>
        {parts.map(([key, v]) => (
          <li key={key}>
            <button type="button" className="min-h-[24px] w-full text-left font-semibold" onClick={() => reveal(key)}>
              {keyWords(key)}
            </button>
            {Array.isArray(v) && (
              <ul className="pl-3">
                {v.map((item, i) => {
                  const name = isMembers(item) && nameOf(item);
                  return name ? (
                    // biome-ignore lint/suspicious/noArrayIndexKey: an item is what stands at its place
                    <li key={i}>
                      <button
                        type="button"
                        className="min-h-[24px] w-full truncate text-left text-[12.5px] text-soft hover:text-ink"
                        onClick={() => reveal(pathText([key, i]))}
                      >
                        {name}
                      </button>
                    </li>
                  ) : null;
                })}
              </ul>
            )}
          </li>
        ))}
      </ul>
    </nav>
  );
}

/** Opens the part of a path, and takes the focus to it. */
function reveal(path: string) {
  const part =
    document.getElementById(`part-${path}`) ??
    document.getElementById(`at-${path}`) ??
    document.getElementById(`at-${path}-add`);
  for (let up = part?.closest("details"); up; up = up.parentElement?.closest("details")) up.open = true;
  const at = part?.querySelector("summary") ?? part;
  at?.focus();
  part?.scrollIntoView({ block: "start" });
}

/** A problem that leads to its control. */
function ProblemLink({ part, value }: { part: ProblemPart; value: Value }) {
  const at = pathText(pathOf(value, part.path));
  return (
    <button type="button" className="link text-left" onClick={() => reveal(at)}>
      {part.path ? `${part.path}: ${part.text}` : part.text}
    </button>
  );
}
