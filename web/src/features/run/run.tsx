import { useMemo } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { type Depth, useCase, usualPlan } from "../../api/cases";
import { Problem } from "../../api/client";
import { type Mark, type RunView, useLive, useResume, useRun, useStart, useStop } from "../../api/queries";
import { checks } from "../../api/words.gen";
import { useFormAddress, useFormView } from "../../editing/form-view";
import { RowsTable } from "../../evidence/rows";
import { Empty } from "../../ui/empty";
import { Trouble, Waiting } from "../../ui/notice";
import { Term } from "../../ui/term";
import { Legend, letterVerdict, Tick, TickMark, type Verdict } from "../../ui/tick";
import { count, moment } from "../../ui/time";
import { Widespread } from "../../ui/widespread";
import { say, worded } from "../../words";
import { DeleteRun } from "./delete-run";
import { RunOptions } from "./run-options";

export function RunPage() {
  const at = useFormAddress();
  const [search] = useSearchParams();
  const number = Number(search.get("run") ?? 0) || 0;
  const run = useRun(at, number);
  useLive(at, number, run.data);
  if (run.isPending) return <Waiting what={say.run.loadingTheRun} />;
  if (run.isError) {
    if (run.error instanceof Problem && run.error.status === 404 && number === 0) return <NeverRun />;
    return <Trouble error={run.error} again={() => run.refetch()} />;
  }
  return (
    <div className="grid grid-cols-1 lg:h-full lg:grid-cols-[minmax(0,1fr)_372px]">
      <main className="flex min-h-0 flex-col border-r border-line">
        <Lattice view={run.data} />
      </main>
      <Aside view={run.data} />
    </div>
  );
}

function NeverRun() {
  const at = useFormAddress();
  const start = useStart(at);
  return (
    <Empty title={say.run.thisFormHasNotBeen} text={say.run.aRunSubmitsTheCases}>
      <button type="button" className="button button-lead" onClick={() => start.mutate({})} disabled={start.isPending}>
        {say.run.runAllCasesOfStandard}
      </button>
      <WithOptions depth="standard" start={start} />
      {start.isError && <Trouble error={start.error} />}
    </Empty>
  );
}

/** The button that starts a run as one chooses, and leads to it. */
function WithOptions({ depth, start }: { depth: Depth; start: ReturnType<typeof useStart> }) {
  const at = useFormAddress();
  const f = useFormView();
  const go = useNavigate();
  return (
    <RunOptions
      at={at}
      rows={[...f.fields.map((x) => ({ id: x.id, label: x.label })), ...below]}
      depth={depth}
      start={(plan, choices) =>
        start.mutate(
          { plan, ...choices },
          { onSuccess: () => go(`/sites/${at.site}/forms/${at.form}/${choices.by_hand ? "by-hand" : "run"}`) },
        )
      }
    />
  );
}

function Lattice({ view }: { view: RunView }) {
  const at = useFormAddress();
  const base = `/sites/${at.site}/forms/${at.form}`;
  const marks = useMemo(() => {
    const map = new Map<string, Mark>();
    for (const m of view.marks) map.set(m.case, m);
    return map;
  }, [view.marks]);
  const r = view.run;
  return (
    <>
      <div className="flex min-h-[38px] shrink-0 flex-wrap items-center justify-between gap-x-3 gap-y-1 border-b bg-ground border-line px-3 py-1 text-[12.5px] leading-tight lg:flex-nowrap">
        <Progress view={view} />
        <RunChoice view={view} base={base} />
      </div>
      <Widespread run={r} base={base} />
      <div tabIndex={0} className="min-h-0 flex-1 overflow-y-auto">
        <table className="w-full border-collapse">
          <caption className="sr-only">{say.run.fieldsByChecksOneTick}</caption>
          <thead className="sticky top-0 z-10 bg-ground text-left text-[12px]">
            <tr className="border-b border-line">
              <th scope="col" className="w-[170px] py-1.5 pl-5">
                <span className="sr-only">{say.run.row}</span>
              </th>
              {checks.map((c) => (
                <th key={c.check} scope="col" className="py-0.5 pr-1 font-semibold">
                  <Term of={c.check}>{c.name}</Term>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {view.rows.map((row) => (
              <tr key={row.id} className="border-b border-line bg-panel align-middle">
                <th scope="row" className="border-r border-line py-2 pr-2 pl-5 text-left">
                  <span className="line-clamp-2 text-[14px] leading-tight" title={row.label}>
                    {row.label}
                  </span>
                  <span className="block text-[12px] font-normal text-soft">
                    {count(row.cases?.length, say.run.caseWord, say.run.cases2)}
                  </span>
                </th>
                {checks.map((c, i) => (
                  <td key={c.check} className="py-1.5 pl-1">
                    <Cell
                      cases={row.cases}
                      index={i}
                      marks={marks}
                      label={`${row.label}, ${c.name}`}
                      base={base}
                      run={r.number}
                    />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
        <div className="px-5 py-3">
          <Legend widespread={r.widespread.length > 0} />
        </div>
      </div>
    </>
  );
}

/** The rows below the fields. */
const below = [
  { id: "across", label: say.run.acrossFields },
  { id: "uniqueness", label: say.run.uniqueness },
  { id: "form", label: say.run.wholeForm },
];

function Progress({ view }: { view: RunView }) {
  const at = useFormAddress();
  const r = view.run;
  const stop = useStop(at, r.number);
  const start = useStart(at);
  const resume = useResume(at, r.number);
  if (r.state === "running") {
    const seconds = (Date.now() - new Date(r.started_at).getTime()) / 1000;
    const rate = r.done / Math.max(0.5, seconds);
    const left = rate > 0 ? Math.ceil((r.total - r.done) / rate) : 0;
    return (
      <span className="flex flex-wrap items-center gap-x-3 gap-y-1 lg:flex-nowrap">
        {/* that it runs is said once; the counts beside it change with every case and are only seen */}
        <span key="said" role="status" className="sr-only">
          {say.run.runNumber(r.number, worded(r.state))}
        </span>
        <progress className="w-32" value={r.done} max={r.total} aria-label={say.run.progress} />
        <button type="button" className="button" onClick={() => stop.mutate()} disabled={stop.isPending}>
          {say.run.stop}
        </button>
        {r.by_hand ? (
          <>
            {r.done} {say.run.ofWord} {r.total} {say.run.byHand}{" "}
            <Link className="link" to={`/sites/${at.site}/forms/${at.form}/by-hand?run=${r.number}`}>
              {say.run.theNextCase}
            </Link>
          </>
        ) : (
          <>
            {r.done} {say.run.ofWord} {r.total} · {rate.toFixed(1)} {say.run.aSecond}
            {left > 1 && say.run.aboutLeft(left)}
          </>
        )}
      </span>
    );
  }
  return (
    <span className="flex flex-wrap items-center gap-x-3 gap-y-1 lg:flex-nowrap">
      {/* before the text, whose width still changes when the run's last words come: a button must not move under the pointer */}
      <button
        type="button"
        className="button shrink-0"
        onClick={() => start.mutate({ plan: { ...usualPlan, depth: r.depth as Depth } })}
        disabled={start.isPending}
      >
        {say.run.runAgain}
      </button>
      <WithOptions depth={r.depth as Depth} start={start} />
      {(r.state === "stopped" || r.state === "failed") && r.done < r.total && (
        <button type="button" className="button shrink-0" onClick={() => resume.mutate()} disabled={resume.isPending}>
          {say.run.resume}
        </button>
      )}
      {r.state !== "running" && <DeleteRun at={at} run={r.number} cases={r.total} />}
      <span key="said" role="status">
        {say.run.runNumber(r.number, worded(r.state))}, {r.done} {say.run.ofWord} {r.total} {say.run.cases3} {r.odd}{" "}
        {say.run.odd}
        {r.not_observed > 0 && say.run.notObserved(r.not_observed)}
        {r.none > 0 && say.run.notApplicable(r.none)} · {r.depth}
        {r.environment && ` · ${r.environment}`} · {moment(r.started_at)}
        {r.not_selected > 0 && say.run.skipped(count(r.not_selected, say.run.caseWord, say.run.cases2))}
        {(r.cases_of_unknown_end ?? []).length > 0 &&
          say.run.interruptedAndRepeated(
            count(r.cases_of_unknown_end?.length ?? 0, say.run.submission, say.run.submissions),
            r.cases_of_unknown_end?.join(", "),
          )}
        {r.reason && ` · ${r.reason}`}
        {r.external_changes > 0 &&
          say.run.changedByOthersMeanwhile(count(r.external_changes, say.run.row, say.run.rows))}
      </span>
      {start.isError && <span role="alert">{start.error.message}</span>}
      {resume.isError && <span role="alert">{resume.error.message}</span>}
    </span>
  );
}

function RunChoice({ view, base }: { view: RunView; base: string }) {
  const go = useNavigate();
  const newest = view.runs[0]?.number ?? 0;
  return (
    <select
      aria-label={say.run.run}
      className="button"
      value={view.run.number}
      onChange={(e) => go(Number(e.target.value) === newest ? `${base}/run` : `${base}/run?run=${e.target.value}`)}
    >
      {view.runs.map((r) => (
        <option key={r.number} value={r.number}>
          {say.run.run2} {r.number}
          {r.environment && `, ${r.environment}`}
        </option>
      ))}
    </select>
  );
}

const perLine = 15;
const stepX = 6;
const stepY = 16;

function Cell({
  cases,
  index,
  marks,
  label,
  base,
  run,
}: {
  cases: string[];
  index: number;
  marks: Map<string, Mark>;
  label: string;
  base: string;
  run: number;
}) {
  const verdicts = cases.map((id): Verdict => {
    const m = marks.get(id);
    return m ? (letterVerdict[m.checks[index] ?? "."] ?? "to come") : "to come";
  });
  const lines = Math.ceil(cases.length / perLine);
  const width = perLine * stepX + 8;
  const odd = verdicts.filter((v) => v === "odd").length;
  if (verdicts.length > 0 && verdicts.every((v) => v === "does not apply"))
    return <Tick verdict="does not apply" height={stepY} />;
  const at = (i: number) => `translate(${4 + (i % perLine) * stepX} ${Math.floor(i / perLine) * stepY})`;
  return (
    <svg
      width={width}
      height={lines * stepY}
      role={odd > 0 ? "group" : "img"}
      aria-label={say.run.oddOf(label, odd, cases.length)}
    >
      {verdicts.map((v, i) =>
        v === "odd" ? null : (
          <g key={cases[i]} transform={at(i)}>
            <TickMark verdict={v} x={0} height={14} />
          </g>
        ),
      )}
      {verdicts.map((v, i) =>
        v !== "odd" ? null : (
          <a
            key={cases[i]}
            href={`${base}/case?id=${encodeURIComponent(cases[i] ?? "")}&run=${run}`}
            aria-label={`${label}: ${marks.get(cases[i] ?? "")?.headline}`}
          >
            <title>{marks.get(cases[i] ?? "")?.headline}</title>
            <g transform={at(i)}>
              <rect x={-4} y={-1} width={14} height={stepY} fill="transparent" />
              <TickMark verdict="odd" x={-1} height={14} />
            </g>
          </a>
        ),
      )}
    </svg>
  );
}

function Aside({ view }: { view: RunView }) {
  const at = useFormAddress();
  const base = `/sites/${at.site}/forms/${at.form}`;
  const groups = useMemo(() => live(view), [view]);
  const labels = new Map(view.rows.map((r) => [r.id, r.label]));
  const newest = view.marks.at(-1)?.case ?? null;
  return (
    <aside tabIndex={0} aria-label={say.run.oddSoFar} className="min-h-0 overflow-y-auto bg-panel px-5 py-4">
      <h2 className="text-[12px] font-normal text-soft">
        {view.run.state === "running" ? say.run.oddSoFarByCause : say.run.oddByCause}
      </h2>
      {groups.length === 0 && (
        <p className="border-t border-line py-2">
          {view.run.state === "running"
            ? say.run.nothingOddYet
            : view.run.done === 0
              ? say.run.nothingWasRun
              : view.run.done < view.run.total
                ? say.run.nothingOddInThose(count(view.run.done, say.run.caseWord, say.run.cases2), view.run.total)
                : view.run.not_observed > 0
                  ? say.run.nothingOddObserved(count(view.run.not_observed, say.run.caseWord, say.run.cases2))
                  : say.run.nothingIsOdd}
        </p>
      )}
      <ul>
        {groups.map((g) => (
          <li key={g.key} className="flex gap-2 border-t border-line py-2">
            <Tick verdict="odd" height={18} />
            <div className="min-w-0 flex-1">
              <Link
                className="link font-semibold"
                to={`${base}/case?id=${encodeURIComponent(g.cases[0] ?? "")}&run=${view.run.number}`}
              >
                {g.row ? (labels.get(g.row) ?? g.row) : say.run.severalFields}
              </Link>
              <p className="text-[12.5px]">{g.headline}</p>
            </div>
            <span className="whitespace-nowrap text-soft">
              {count(g.cases.length, say.run.caseWord, say.run.cases2)}
            </span>
          </li>
        ))}
      </ul>
      {newest && <LastRows id={newest} run={view.run.number} />}
    </aside>
  );
}

type Group = { key: string; row: string; headline: string; cases: string[] };

/** Causes as the server groups them, and what has come since by its cause. */
function live(view: RunView): Group[] {
  const out: Group[] = view.causes.map((c) => ({
    key: c.id,
    row: c.row,
    headline: c.headline,
    cases: c.cases,
  }));
  const grouped = new Set(out.flatMap((g) => g.cases));
  for (const m of view.marks) {
    if (m.verdict !== "odd" || grouped.has(m.case)) continue;
    const same = out.find((g) => g.key === m.cause);
    if (!same) out.push({ key: m.cause ?? m.case, row: m.row, headline: m.headline, cases: [m.case] });
    else if (!same.cases.includes(m.case)) {
      same.cases = [...same.cases, m.case];
      if (same.row !== m.row) same.row = "";
    }
  }
  return out;
}

function LastRows({ id, run }: { id: string; run: number }) {
  const at = useFormAddress();
  const one = useCase(at, id, run);
  const changes = (one.data?.result?.steps ?? []).flatMap((s) => s.observation?.changes ?? []);
  const last = one.data?.result?.steps?.at(-1);
  if (!one.data) return null;
  return (
    <section className="mt-5 border-t border-line pt-3">
      <h2 className="text-[12px] font-normal text-soft">{say.run.lastCase}</h2>
      <p className="font-semibold">{one.data.case.title}</p>
      {changes.length === 0 && <p className="text-soft">{say.run.noRowChanged}</p>}
      {changes.slice(-1).map((c) => (
        <RowsTable key={c.key} change={c} expected={last?.expectation?.rows?.find((r) => r.table === c.table)} />
      ))}
    </section>
  );
}
