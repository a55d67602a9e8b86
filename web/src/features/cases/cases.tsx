import { useCallback, useEffect, useMemo } from "react";
import { useNavigate } from "react-router";
import { depths, useCases, useTechniques } from "../../api/cases";
import { useStart } from "../../api/queries";
import { useFormAddress } from "../../editing/form-view";
import { Kbd, typing } from "../../ui/keys";
import { Trouble, Waiting } from "../../ui/notice";
import type { Verdict } from "../../ui/tick";
import { caseChanges } from "../../ui/time";
import { Toolbar, Views } from "../../ui/toolbar";
import { Widespread } from "../../ui/widespread";
import { say, worded } from "../../words";
import { Access } from "./access";
import { Aside } from "./aside";
import { Combinations } from "./combinations";
import { CoverageView } from "./coverage";
import { Decisions } from "./decisions";
import { List } from "./list";
import { Scales } from "./scales";
import { SheetView } from "./sheet";
import { useView, views } from "./view";

/** A form's cases: on their scales, as a list, in the tables they come from, and what they cover. */
export function CasesPage() {
  const at = useFormAddress();
  const { search, change, plan, view, selected } = useView();
  const cases = useCases(at, plan);
  const start = useStart(at);
  const go = useNavigate();
  const base = `/sites/${at.site}/forms/${at.form}`;
  const select = useCallback((id: string | null) => change({ case: id }), [change]);
  const toRun = useCallback(() => go(`${base}/run`), [go, base]);
  const runThese = useCallback(() => start.mutate({ plan }, { onSuccess: toRun }), [start, plan, toRun]);

  useEffect(() => {
    const listen = (e: globalThis.KeyboardEvent) => {
      if (e.key === "Enter" && (e.ctrlKey || e.metaKey) && !start.isPending) {
        e.preventDefault();
        runThese();
      }
      if (e.key === "Escape" && !typing(e) && !e.defaultPrevented) select(null);
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, [runThese, select, start.isPending]);

  const data = cases.data;
  const all = data?.cases;
  const verdictOf = useCallback(
    (id: string): Verdict => {
      const c = all?.[id];
      if (c?.skipped) return "does not apply";
      return c?.widespread ? "widespread" : ((c?.verdict as Verdict | undefined) ?? "to come");
    },
    [all],
  );
  const titleOf = useCallback(
    (id: string) => {
      const c = all?.[id];
      return c
        ? `${c.title}${c.headline ? ` — ${c.headline}` : ""}${c.skipped ? say.cases.skipped2(c.skipped) : ""}`
        : id;
    },
    [all],
  );
  const heardOf = useCallback(
    (id: string) => ({ expected: worded(all?.[id]?.expect ?? ""), headline: all?.[id]?.headline }),
    [all],
  );
  const labels = useMemo(() => new Map((data?.rows ?? []).map((r) => [r.id, r.label])), [data]);
  const rowLabel = useCallback((id: string) => labels.get(id) ?? id, [labels]);
  const enter = useCallback((id: string) => go(`${base}/case?id=${encodeURIComponent(id)}`), [go, base]);

  if (cases.isPending) return <Waiting what={say.cases.computingTheCases} />;
  if (cases.isError) return <Trouble error={cases.error} again={() => cases.refetch()} />;
  if (!data) return null;
  const off = Object.values(data.cases).filter((c) => c.skipped).length;
  const browser = Object.values(data.cases).filter((c) => c.driver === "browser").length;
  return (
    <div className="grid grid-cols-1 lg:h-full lg:grid-cols-[minmax(0,1fr)_372px]">
      <main className="flex min-h-0 flex-col border-r border-line">
        <Toolbar>
          <Views
            label={say.cases.whatIsShown}
            views={views}
            shown={view}
            show={(name) => change({ view: name === "scales" ? null : name })}
          />
          <span className="flex flex-wrap items-center gap-1.5 lg:ml-auto">
            <select
              aria-label={say.cases.depth}
              className="button"
              value={plan.depth}
              onChange={(e) => change({ depth: e.target.value === "standard" ? null : e.target.value })}
            >
              {depths.map((d) => (
                <option key={d} value={d}>
                  {worded(d)}
                </option>
              ))}
            </select>
            <AtMost value={plan.atMost} onChange={(n) => change({ at_most: n > 0 ? String(n) : null })} />
            <button
              type="button"
              className="button button-lead"
              title={say.cases.ctrlEnter}
              onClick={runThese}
              disabled={start.isPending}
            >
              {data.order ? say.cases.runTheseCases(data.order.length) : say.cases.runTheseCases2}
            </button>
          </span>
        </Toolbar>
        <div className="flex min-h-[26px] shrink-0 flex-wrap items-center gap-x-2 border-b border-line bg-ground px-3 text-[12px] text-soft lg:flex-nowrap lg:whitespace-nowrap">
          <span className="min-w-0 truncate">
            {data.order?.length} {say.cases.cases}
            {browser > 0 && say.cases.inTheBrowser(browser)}
            {off > 0 && say.cases.skipped3(off)}
            {data.omitted.length > 0 && say.cases.cannotBeGenerated(data.omitted.length)}
            {data.run ? say.cases.verdictsOfRun(data.run.number) : say.cases.neverRun}
            {data.changes && say.cases.rulesChangedSinceThenRun(caseChanges(data.changes))}
          </span>
          {view === "scales" && (
            <span className="flex flex-wrap items-center gap-1.5 lg:ml-auto">
              <label className="flex items-center gap-1">
                <input
                  type="checkbox"
                  checked={search.get("odd") === "1"}
                  onChange={(e) => change({ odd: e.target.checked ? "1" : null })}
                />
                {say.cases.oddOnesFirst}
              </label>
              <Kbd>↑</Kbd>
              <Kbd>↓</Kbd> {say.cases.row} <Kbd>←</Kbd>
              <Kbd>→</Kbd> {say.cases.tick} <Kbd>+</Kbd> {say.cases.open}
            </span>
          )}
          {view === "list" && (
            <span className="flex flex-wrap items-center gap-1.5 lg:ml-auto">
              <Kbd>↑</Kbd>
              <Kbd>↓</Kbd> {say.cases.line} <Kbd>{say.cases.space}</Kbd> {say.cases.choose}
              <a
                className="link"
                href={`/api/sites/${at.site}/forms/${at.form}/cases.csv?depth=${plan.depth}&strength=${plan.strength}&at_most=${plan.atMost}&large=${plan.large}`}
              >
                {say.cases.exportCsv}
              </a>
            </span>
          )}
        </div>
        {start.isError && <Trouble error={start.error} />}
        <Widespread run={data.run} base={base} />
        {view === "scales" && (
          <Scales
            data={data}
            selected={selected}
            open={(search.get("open") ?? "").split(",").filter((r) => r !== "")}
            oddFirst={search.get("odd") === "1"}
            verdictOf={verdictOf}
            titleOf={titleOf}
            heardOf={heardOf}
            onSelect={select}
            onOpen={(rows) => change({ open: rows.join(",") })}
            onEnter={enter}
          />
        )}
        {view === "list" && (
          <List
            at={at}
            plan={plan}
            data={data}
            rowLabel={rowLabel}
            selected={selected}
            search={search}
            change={change}
            onRun={toRun}
          />
        )}
        {(view === "decisions" || view === "combinations" || view === "access") && (
          <FromTechniques view={view} data={data} selected={selected} onSelect={select} verdictOf={verdictOf} />
        )}
        {view === "coverage" && (
          <CoverageView
            at={at}
            plan={plan}
            observed={search.get("observed") === "1"}
            ran={data.run !== undefined}
            onObserved={(on) => change({ observed: on ? "1" : null })}
            onSelect={select}
          />
        )}
        {view === "sheet" && <SheetView at={at} onDone={() => change({ view: "list", technique: "added by hand" })} />}
      </main>
      <Aside at={at} id={selected} plan={plan} onSelect={select} />
    </div>
  );
}

type Shown = {
  view: "decisions" | "combinations" | "access";
  data: NonNullable<ReturnType<typeof useCases>["data"]>;
  selected: string | null;
  onSelect: (id: string) => void;
  verdictOf: (id: string) => Verdict;
};

function FromTechniques({ view, data, selected, onSelect, verdictOf }: Shown) {
  const at = useFormAddress();
  const { plan, change } = useView();
  const techniques = useTechniques(at, plan);
  if (techniques.isPending) return <Waiting what={say.cases.computing} />;
  if (techniques.isError) return <Trouble error={techniques.error} again={() => techniques.refetch()} />;
  if (view === "access") return <Access data={techniques.data} />;
  if (view === "decisions")
    return (
      <Decisions
        at={at}
        data={techniques.data}
        cases={data}
        selected={selected}
        onSelect={onSelect}
        verdictOf={verdictOf}
      />
    );
  return (
    <Combinations
      data={techniques.data}
      cases={data}
      selected={selected}
      strength={plan.strength}
      onSelect={onSelect}
      onStrength={(t, large) => change({ strength: t === 2 ? null : String(t), large: large ? "1" : null, case: null })}
      verdictOf={verdictOf}
    />
  );
}

/** How many cases at most; blank is all. */
function AtMost({ value, onChange }: { value: number; onChange: (n: number) => void }) {
  return (
    <label className="flex items-center gap-1" title={say.cases.theCasesThatCoverThe}>
      <span className="text-soft">{say.cases.limitTo}</span>
      <input
        key={value}
        type="number"
        min={1}
        aria-label={say.cases.limitToSoManyCases}
        placeholder={say.cases.all}
        className="field w-[58px]"
        defaultValue={value || ""}
        onBlur={(e) => Number(e.target.value) !== value && onChange(Math.max(0, Math.floor(Number(e.target.value))))}
        onKeyDown={(e) =>
          e.key === "Enter" && !e.ctrlKey && onChange(Math.max(0, Math.floor(Number(e.currentTarget.value))))
        }
      />
    </label>
  );
}
