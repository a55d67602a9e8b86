import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { createContext, type ReactNode, useCallback, useContext, useEffect, useRef, useState } from "react";
import type { FormAt } from "../api/client";
import { api, need, Problem, type Schemas } from "../api/client";
import { Discards } from "../ui/cell";
import { typing } from "../ui/keys";
import { keepNotice } from "../ui/notices";
import { caseChanges } from "../ui/time";
import { Toolbar } from "../ui/toolbar";
import { say } from "../words";

export type Edit = Schemas["DocumentEdit"];
type Answer = Schemas["EditAnswer"];

/** A change of a document: edits, or another text for all of it. */
type Change = { edits: Edit[]; note?: string; text?: string };

/** What can be done to the form that is open. */
type Editing = {
  apply: (edits: Edit[], note?: string) => Promise<boolean>;
  /** Puts another text, made from a revision, in the place of the whole document. */
  replace: (text: string, base: number) => Promise<boolean>;
  /** Makes an earlier revision the newest again. */
  restore: (revision: number) => void;
  undo: () => void;
  redo: () => void;
  canUndo: boolean;
  canRedo: boolean;
  busy: boolean;
  last: Answer | null;
  base: number;
};

const Context = createContext<Editing | null>(null);

export function useEditing(): Editing {
  const editing = useContext(Context);
  if (!editing) throw new Error("useEditing is for views within a form's frame");
  return editing;
}

const edit = (at: FormAt, base: number, edits: Edit[], note?: string, preview?: boolean) =>
  need(
    api.POST("/api/sites/{site}/forms/{form}/edits", { params: { path: at }, body: { base, edits, note, preview } }),
  );

const replaced = (at: FormAt, base: number, text: string, preview?: boolean) =>
  need(api.PUT("/api/sites/{site}/forms/{form}/document", { params: { path: at }, body: { base, text, preview } }));

/** What another text of the document would come to, without saving it. */
export function useTextPreview(at: FormAt, base: number, text: string | null) {
  return useQuery({
    queryKey: ["preview", at.site, at.form, base, text],
    enabled: text !== null,
    retry: false,
    gcTime: 0,
    placeholderData: (before) => before,
    queryFn: () => replaced(at, base, text ?? "", true),
  });
}

/** What an edit would come to, without making it. Where the form was saved meanwhile, it is what it would come to now. */
export function usePreview(at: FormAt, base: number, edits: Edit[] | null) {
  return useQuery({
    queryKey: ["preview", at.site, at.form, base, edits],
    enabled: edits !== null,
    retry: false,
    gcTime: 0,
    placeholderData: (before) => before,
    queryFn: async () => {
      const preview = (from: number) => edit(at, from, edits ?? [], undefined, true);
      try {
        return await preview(base);
      } catch (e) {
        if (!(e instanceof Problem) || e.status !== 409) throw e;
        return await preview((await documentOf(at)).revision);
      }
    },
  });
}

/** The newest revision that was saved elsewhere, in another tab or by somebody else, after the one that is shown. */
function useElsewhere(at: FormAt, shown: number) {
  return useQuery({
    queryKey: ["elsewhere", at.site, at.form, shown],
    retry: false,
    gcTime: 0,
    refetchInterval: 4000,
    queryFn: () =>
      need(api.GET("/api/sites/{site}/forms/{form}/revisions", { params: { path: at, query: { after: shown } } })).then(
        (list) => list[0] ?? null,
      ),
  }).data;
}

const documentOf = (at: FormAt) => need(api.GET("/api/sites/{site}/forms/{form}/document", { params: { path: at } }));

/** Keeps the revisions to go back and forth to, and asks when somebody else has saved meanwhile. */
export function EditingProvider({ at, base, children }: { at: FormAt; base: number; children: ReactNode }) {
  const cache = useQueryClient();
  const [back, setBack] = useState<number[]>([]);
  const [forth, setForth] = useState<number[]>([]);
  const [last, setLast] = useState<Answer | null>(null);
  const [stale, setStale] = useState<({ says: string } & Change) | null>(null);
  const [trouble, setTrouble] = useState("");
  const [discards, setDiscards] = useState(0);

  const refresh = useCallback(async () => {
    const first = ["form", "sites", "cases", "case", "contradictions", "revisions", "document"];
    await Promise.all(first.map((key) => cache.invalidateQueries({ queryKey: [key] })));
  }, [cache]);

  // changes go one after the other, each from the revision that the one before it made
  const newest = useRef(base);
  newest.current = Math.max(newest.current, base);
  const chain = useRef<Promise<unknown>>(Promise.resolve());
  const inTurn = <T,>(work: () => Promise<T>): Promise<T> => {
    const done = chain.current.then(work);
    chain.current = done;
    return done;
  };

  const save = useMutation({
    mutationFn: (m: { base: number } & Change) =>
      m.text === undefined ? edit(at, m.base, m.edits, m.note) : replaced(at, m.base, m.text),
  });
  const restore = useMutation({
    mutationFn: (revision: number) =>
      need(
        api.POST("/api/sites/{site}/forms/{form}/revisions/{revision}/restore", {
          params: { path: { ...at, revision } },
          body: { base: newest.current },
        }),
      ),
  });

  const failed = (e: unknown, change: Change) => {
    if (e instanceof Problem && e.status === 409) setStale({ says: e.message, ...change });
    else setTrouble(e instanceof Error ? e.message : say.editing.somethingWentWrong);
  };

  const run = async (from: number, change: Change) => {
    setTrouble("");
    try {
      const answer = await save.mutateAsync({ base: from, ...change });
      newest.current = Math.max(newest.current, answer.revision);
      setLast(answer);
      if (answer.revision !== from) {
        setBack((b) => [...b, from]);
        setForth([]);
      }
      await refresh();
      return true;
    } catch (e) {
      failed(e, change);
      return false;
    }
  };

  const travel = async (
    from: number[],
    setFrom: (l: number[]) => void,
    setTo: (f: (l: number[]) => number[]) => void,
  ) => {
    const target = from.at(-1);
    if (target === undefined) return;
    setTrouble("");
    try {
      const answer = await restore.mutateAsync(target);
      newest.current = Math.max(newest.current, answer.revision);
      setLast(answer);
      setFrom(from.slice(0, -1));
      setTo((l) => [...l, base]);
      await refresh();
    } catch (e) {
      failed(e, { edits: [] });
    }
  };
  const restoreTo = (revision: number) =>
    travel(
      [revision],
      () => setForth([]),
      (add) => setBack(add),
    );
  const undo = () => travel(back, setBack, setForth);
  const redo = () => travel(forth, setForth, setBack);

  useEffect(() => {
    const listen = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey) || typing(e)) return;
      const key = e.key.toLowerCase();
      if (key === "z" && !e.shiftKey) undo();
      else if (key === "y" || (key === "z" && e.shiftKey)) redo();
      else return;
      e.preventDefault();
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  });

  const elsewhere = useElsewhere(at, base);
  useEffect(() => keepNotice(trouble), [trouble]);
  useEffect(() => keepNotice(stale?.says ?? ""), [stale]);
  const editing: Editing = {
    apply: (edits, note) => inTurn(() => run(newest.current, { edits, note })),
    replace: (text, base) => inTurn(() => run(base, { edits: [], text })),
    restore: restoreTo,
    undo,
    redo,
    canUndo: back.length > 0,
    canRedo: forth.length > 0,
    busy: save.isPending || restore.isPending,
    last,
    base,
  };
  const takeBase = async (mine: boolean) => {
    if (!stale) return;
    const change = { edits: stale.edits, note: stale.note, text: stale.text };
    setStale(null);
    await refresh();
    const fresh = await documentOf(at);
    newest.current = Math.max(newest.current, fresh.revision);
    if (!mine) setDiscards((n) => n + 1);
    if (mine && (change.edits.length > 0 || change.text !== undefined)) await run(fresh.revision, change);
  };
  return (
    <Context.Provider value={editing}>
      {elsewhere && elsewhere.number > newest.current && !stale && !save.isPending && !restore.isPending && (
        <div
          role="status"
          className="flex flex-wrap items-center gap-3 border-b border-line border-l-4 border-l-unseen bg-panel px-5 py-2"
        >
          <p className="min-w-0 flex-1 break-words">
            {say.editing.savedElsewhere(elsewhere.saved_by, elsewhere.number, elsewhere.differences.join("; "))}
          </p>
          <button type="button" className="button" onClick={() => refresh()}>
            {say.editing.showIt}
          </button>
        </div>
      )}
      {stale && (
        <div role="alert" className="border-b border-line border-l-4 border-l-unseen bg-panel px-5 py-2">
          <p>
            {stale.says} {say.editing.yourChangeIsNotSaved}
          </p>
          <div className="mt-1 flex gap-2">
            <button type="button" className="button" onClick={() => takeBase(true)}>
              {say.editing.applyMyChangeToIt}
            </button>
            <button type="button" className="button" onClick={() => takeBase(false)}>
              {say.editing.discardMine}
            </button>
          </div>
        </div>
      )}
      {trouble && (
        <div
          role="alert"
          className="flex items-start gap-3 border-b border-line border-l-4 border-l-unseen bg-panel px-5 py-2"
        >
          <p className="flex-1 break-words">{trouble}</p>
          <button type="button" className="button" onClick={() => setTrouble("")}>
            {say.editing.close}
          </button>
        </div>
      )}
      <Discards value={discards}>{children}</Discards>
    </Context.Provider>
  );
}

/** What the last change came to, and the way back. */
export function EditBar({ children }: { children?: ReactNode }) {
  const e = useEditing();
  const c = e.last?.cases;
  const changed =
    e.last && e.last.differences.length > 0 && c ? `${e.last.differences.join("; ")} — ${caseChanges(c)}` : "";
  useEffect(() => keepNotice(changed), [changed]);
  return (
    <Toolbar>
      {children}
      <p role="status" className="min-w-[60px] flex-1 truncate text-right" title={changed}>
        {e.busy ? say.editing.saving : changed}
      </p>
      <UndoButtons />
    </Toolbar>
  );
}

/** Back to the revision before the last change, and forth again. */
export function UndoButtons() {
  const e = useEditing();
  return (
    <>
      <button
        type="button"
        className="button"
        disabled={!e.canUndo || e.busy}
        onClick={e.undo}
        title={say.editing.ctrlZ}
      >
        {say.editing.undo}
      </button>
      <button
        type="button"
        className="button"
        disabled={!e.canRedo || e.busy}
        onClick={e.redo}
        title={say.editing.ctrlY}
      >
        {say.editing.redo}
      </button>
    </>
  );
}
