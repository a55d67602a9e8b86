import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { type CaseEdit, type Plan, useCase, useCaseEdits, useCasePreview, useEditCases } from "../../api/cases";
import type { FormAt, Schemas } from "../../api/client";
import { useStart } from "../../api/queries";
import { Evidence } from "../../evidence/checks";
import { Trouble } from "../../ui/notice";
import { Value } from "../../ui/value";
import { say, worded } from "../../words";

type CaseView = Schemas["CaseView"] & { version: string };
type Input = Schemas["CaseInput"];

/** The selected case: what was observed, what it sends, why it exists; and what may be done with it. */
export function Aside({
  at,
  id,
  plan,
  onSelect,
}: {
  at: FormAt;
  id: string | null;
  plan: Plan;
  onSelect: (id: string | null) => void;
}) {
  const one = useCase(at, id, 0);
  const [writing, setWriting] = useState(false);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another case is another thing to edit
  useEffect(() => setWriting(false), [id]);
  return (
    <aside tabIndex={0} aria-label={say.cases.evidence} className="min-h-0 overflow-y-auto bg-panel px-5 pt-4">
      {id === null && !writing && (
        <>
          <p className="text-soft">{say.cases.chooseATickWithThe}</p>
          <p className="mt-3 flex gap-2">
            <button type="button" className="button" onClick={() => setWriting(true)}>
              {say.cases.addACase}
            </button>
            <Link className="button" to="?view=sheet">
              {say.cases.importCasesCsvXlsx}
            </Link>
          </p>
        </>
      )}
      {id === null && writing && <CaseEditor at={at} view={null} onDone={(made) => onSelect(made)} />}
      {id !== null && one.isError && <Trouble error={one.error} again={() => one.refetch()} />}
      {id !== null &&
        one.data &&
        (writing ? (
          <CaseEditor at={at} view={one.data} onDone={() => setWriting(false)} />
        ) : (
          <>
            <Evidence view={one.data} />
            <Sends inputs={one.data.inputs} />
            <Why view={one.data} />
            <p className="mt-4">
              <Link className="link" to={`/sites/${at.site}/forms/${at.form}/case?id=${encodeURIComponent(id)}`}>
                {say.cases.theWholeCaseRequestAnswer}
              </Link>
            </p>
            <Actions
              at={at}
              view={one.data}
              plan={plan}
              onWrite={() => setWriting(true)}
              onGone={() => onSelect(null)}
            />
          </>
        ))}
    </aside>
  );
}

/** The edit of a case as it is kept, with something changed; null when nothing is left of it. */
export function withChange(id: string, old: CaseEdit | undefined, change: Partial<CaseEdit>): CaseEdit | null {
  const next: CaseEdit = { ...old, case: id, ...change };
  const left = next.skip || next.every_depth || next.title || next.added || (next.tags ?? []).length > 0;
  return left || Object.keys(next.inputs ?? {}).length > 0 || (next.absent ?? []).length > 0 ? next : null;
}

function Actions({
  at,
  view,
  plan,
  onWrite,
  onGone,
}: {
  at: FormAt;
  view: CaseView;
  plan: Plan;
  onWrite: () => void;
  onGone: () => void;
}) {
  const edit = useEditCases(at);
  const start = useStart(at);
  const [asking, setAsking] = useState(false);
  const [why, setWhy] = useState("");
  const c = view.case;
  const old = c.edit;
  const change = (what: Partial<CaseEdit>) => {
    const next = withChange(c.id, old, what);
    edit.mutate({ from: view.version, ...(next ? { edits: [next] } : { edits: [], remove: [c.id] }) });
  };
  return (
    <div className="sticky bottom-0 -mx-5 mt-4 border-t border-rule bg-ground px-5 py-2">
      {old?.skip && (
        <p className="mb-2 border-l-4 border-rule pl-2">
          {say.cases.skipped} <span className="break-words">{old.skip}</span>
        </p>
      )}
      {!old?.skip && view.left && (
        <p className="mb-2 text-soft">
          {say.cases.notRun} {view.left}.
        </p>
      )}
      {old?.note && <p className="mb-2 text-soft">{old.note}</p>}
      <div className="flex flex-wrap gap-2">
        {!view.left && (
          <button
            type="button"
            className="button"
            disabled={start.isPending}
            onClick={() => start.mutate({ plan, cases: [c.id] })}
          >
            {say.cases.run}
          </button>
        )}
        <button type="button" className="button" onClick={onWrite}>
          {say.cases.edit}
        </button>
        {old?.skip ? (
          <button type="button" className="button" onClick={() => change({ skip: "" })}>
            {say.cases.includeAgain}
          </button>
        ) : (
          <button type="button" className="button" aria-expanded={asking} onClick={() => setAsking(!asking)}>
            {say.cases.skipThisCase}
          </button>
        )}
        {old && (
          <button
            type="button"
            className="button"
            onClick={() =>
              edit.mutate({ from: view.version, edits: [], remove: [c.id] }, { onSuccess: () => old.added && onGone() })
            }
          >
            {old.added ? "Delete" : say.cases.undoEdits}
          </button>
        )}
      </div>
      {asking && !old?.skip && (
        <form
          className="mt-2 flex gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            if (why.trim() !== "") change({ skip: why.trim() });
            setAsking(false);
          }}
        >
          <input
            // biome-ignore lint/a11y/noAutofocus: it was just asked for
            autoFocus
            aria-label={say.cases.whyThisCaseIsSkipped}
            placeholder={say.cases.reason}
            className="field min-w-0 flex-1"
            value={why}
            onChange={(e) => setWhy(e.target.value)}
          />
          <button type="submit" className="button" disabled={why.trim() === ""}>
            {say.cases.skip}
          </button>
        </form>
      )}
      <Tags tags={old?.tags ?? []} onChange={(tags) => change({ tags })} />
      {edit.isError && <Trouble error={edit.error} />}
      {start.isError && <Trouble error={start.error} />}
    </div>
  );
}

function Tags({ tags, onChange }: { tags: string[]; onChange: (tags: string[]) => void }) {
  const text = tags.join(" ");
  const [typed, setTyped] = useState(text);
  useEffect(() => setTyped(text), [text]);
  const keep = () => {
    const next = [...new Set(typed.split(/[\s,;]+/).filter((t) => t !== ""))];
    if (next.join(" ") !== text) onChange(next);
  };
  return (
    <label className="mt-2 flex items-center gap-2">
      <span className="text-soft">{say.cases.tags}</span>
      <input
        className="field min-w-0 flex-1"
        value={typed}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={keep}
        onKeyDown={(e) => {
          if (e.key === "Enter") keep();
          if (e.key === "Escape") setTyped(text);
        }}
      />
    </label>
  );
}

/** What the last submission sends; what differs from the usual one stands first and strong. */
function Sends({ inputs }: { inputs: Input[] }) {
  const told = inputs.filter((i) => !i.fixed);
  const order = [...told.filter((i) => !i.usual), ...told.filter((i) => i.usual)];
  return (
    <section className="mt-3 border-t border-line pt-2" aria-label={say.cases.valuesSent}>
      <h3 className="text-[13px]">{say.cases.valuesSentExampleNewIn}</h3>
      <dl className="mt-1 grid grid-cols-[112px_minmax(0,1fr)] gap-x-2">
        {order.map((i) => (
          <div key={i.field} className="contents">
            <dt className={`truncate ${i.usual ? "text-soft" : "font-semibold"}`} title={i.label}>
              {i.label}
            </dt>
            <dd className={i.usual ? "text-soft" : ""}>{shown(i)}</dd>
          </div>
        ))}
      </dl>
    </section>
  );
}

function shown(i: Input) {
  if (!i.asked) return <span className="text-soft">{say.cases.notShown}</span>;
  if (i.absent) return <span className="text-soft">{say.cases.notSent}</span>;
  if (i.secret && i.length > 0)
    return (
      <span className="text-soft">
        {i.length} {say.cases.characters}
      </span>
    );
  if (i.value === "") return <span className="text-soft">{say.cases.blank}</span>;
  return (
    <>
      <Value>{i.value}</Value>
      {i.edited && <span className="text-soft"> {say.cases.myValue}</span>}
    </>
  );
}

function Why({ view }: { view: CaseView }) {
  const covers = view.covers;
  const only = view.only;
  const pairs = covers.filter((c) => c.kind === "combinations");
  const others = covers.filter((c) => c.kind !== "combinations");
  return (
    <section className="mt-3 border-t border-line pt-2" aria-label={say.cases.whyThisCase}>
      <h3 className="text-[13px]">
        {say.cases.whyThisCase2} {view.case.technique}
      </h3>
      {covers.length === 0 && <p className="text-soft">{say.cases.notNeededForCoverageAdded}</p>}
      <ul>
        {others.map((c) => (
          <li key={c.kind + c.words} className="break-words">
            <span className="text-soft">{c.kind}:</span> {c.words}
          </li>
        ))}
        {pairs.length > 0 && (
          <li>
            <span className="text-soft">{say.cases.combinations}</span> {pairs.length} {say.cases.newInThisRow}
          </li>
        )}
      </ul>
      <h3 className="mt-2 text-[13px]">{say.cases.untestedWithoutThisCase}</h3>
      {only.length === 0 && <p className="text-soft">{say.cases.nothingOtherCasesCoverAll}</p>}
      <ul>
        {only.slice(0, 8).map((c) => (
          <li key={c.kind + c.words} className="break-words">
            <span className="text-soft">{c.kind}:</span> {c.words}
          </li>
        ))}
        {only.length > 8 && (
          <li className="text-soft">
            {say.cases.and} {only.length - 8} {say.cases.more}
          </li>
        )}
      </ul>
    </section>
  );
}

/** Types other values into a case, or writes a new one; what is expected follows as one types. */
function CaseEditor({ at, view, onDone }: { at: FormAt; view: CaseView | null; onDone: (id: string) => void }) {
  const edit = useEditCases(at);
  const all = useCaseEdits(at);
  // what it is made from; what others changed meanwhile counts as seen once it was told
  const from = useRef(view?.version ?? "");
  if (from.current === "" || edit.isError) from.current = view?.version ?? all.data?.version ?? "";
  const old = view?.case.edit;
  const [title, setTitle] = useState(view?.case.title ?? "");
  const [inputs, setInputs] = useState<Record<string, string>>(old?.inputs ?? {});
  const [absent, setAbsent] = useState<string[]>(old?.absent ?? []);
  const own = view === null || old?.added === true;
  const id =
    view?.case.id ??
    ownID(
      at.form,
      title,
      (all.data?.edits ?? []).map((e) => e.case),
    );
  const next: CaseEdit = {
    ...old,
    case: id,
    added: own || undefined,
    title: own || title !== view.case.title ? title : old?.title,
    inputs,
    absent,
  };
  const preview = useCasePreview(at, next);
  const shownInputs = (preview.data?.inputs ?? view?.inputs ?? []).filter((i) => !i.fixed);
  const last = preview.data?.case.steps?.at(-1);
  const keep = () => {
    const kept = withChange(id, next, {});
    edit.mutate(
      { from: from.current, ...(kept ? { edits: [kept] } : { edits: [], remove: [id] }) },
      { onSuccess: () => onDone(id) },
    );
  };
  return (
    <form
      aria-label={view ? say.cases.editTheCase : say.cases.addACase}
      onSubmit={(e) => {
        e.preventDefault();
        keep();
      }}
      onKeyDown={(e) => {
        if (e.key === "Escape") {
          e.stopPropagation();
          onDone(view ? id : "");
        }
      }}
    >
      <h2 className="text-[16px]">{view ? say.cases.editTheCase : say.cases.addACase}</h2>
      <label className="mt-2 block">
        <span className="text-[12px] text-soft">{say.cases.title}</span>
        <input
          className="field w-full"
          value={title}
          required={own}
          // biome-ignore lint/a11y/noAutofocus: the editor was just opened
          autoFocus
          onChange={(e) => setTitle(e.target.value)}
        />
      </label>
      <div className="mt-2 border-l-4 border-edge bg-ground px-2 py-1.5" role="status" aria-label={say.cases.expected}>
        {preview.isError ? (
          <span>{preview.error instanceof Error ? preview.error.message : say.cases.itCannotBeComputed}</span>
        ) : (
          <>
            {say.cases.expected2} <strong>{worded(last?.expect ?? "…")}</strong>. {preview.data?.reason}
          </>
        )}
      </div>
      <p className="mt-2 text-[12px] text-soft">{say.cases.yourValuesAreSentAs}</p>
      <ul>
        {shownInputs.map((i) => (
          <li key={i.field} className="mt-1 grid grid-cols-[112px_minmax(0,1fr)_auto] items-center gap-2">
            <label className="truncate" htmlFor={`in-${i.field}`} title={i.label}>
              {i.label}
            </label>
            <input
              id={`in-${i.field}`}
              className="field value min-w-0"
              disabled={absent.includes(i.field)}
              placeholder={
                absent.includes(i.field)
                  ? say.cases.notSent
                  : i.secret
                    ? say.cases.characters2(i.length)
                    : i.value || say.cases.blank
              }
              value={inputs[i.field] ?? ""}
              onChange={(e) => setInputs({ ...inputs, [i.field]: e.target.value })}
            />
            <select
              aria-label={say.cases.valueOf(i.label)}
              className="button"
              value={absent.includes(i.field) ? "out" : i.field in inputs ? "typed" : "usual"}
              onChange={(e) => {
                const { [i.field]: was = "", ...rest } = inputs;
                setAbsent(e.target.value === "out" ? [...absent, i.field] : absent.filter((f) => f !== i.field));
                setInputs(e.target.value === "typed" ? { ...rest, [i.field]: was } : rest);
              }}
            >
              <option value="usual">{say.cases.automatic}</option>
              <option value="typed">{say.cases.myValue}</option>
              <option value="out">{say.cases.notSent}</option>
            </select>
          </li>
        ))}
      </ul>
      <div className="mt-3 flex gap-2">
        <button
          type="submit"
          className="button button-lead"
          disabled={edit.isPending || preview.isError || (own && title.trim() === "")}
        >
          {say.cases.save}
        </button>
        <button type="button" className="button" onClick={() => onDone(view ? id : "")}>
          {say.cases.cancel}
        </button>
      </div>
      {edit.isError && <Trouble error={edit.error} />}
    </form>
  );
}

/** The id of a case written by hand, by its title; another where it is taken. */
export function ownID(form: string, title: string, taken: string[]): string {
  const role =
    title
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, "_")
      .replace(/^_+|_+$/g, "")
      .slice(0, 100) || "case";
  for (let n = 1; ; n++) {
    const id = `${form}/own.${role}${n > 1 ? `_${n}` : ""}/http`;
    if (!taken.includes(id)) return id;
  }
}
