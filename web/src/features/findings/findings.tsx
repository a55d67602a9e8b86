import { type KeyboardEvent, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { type Depth, useCases, usualPlan } from "../../api/cases";
import { type FormAt, Problem, type Schemas } from "../../api/client";
import { type FindingView, useFinding, useFindings, useFurther, useStopLooking } from "../../api/findings";
import { useUnusual } from "../../api/learned";
import { useRun } from "../../api/queries";
import { useFormAddress, useFormView } from "../../editing/form-view";
import { SeenMessages } from "../../editing/seen-messages";
import { UnusualList } from "../../editing/unusual-list";
import { Probes } from "../../evidence/limit";
import { ScaleRow } from "../../scale/row";
import { Empty } from "../../ui/empty";
import { Trouble, Waiting } from "../../ui/notice";
import { Tick, type Verdict } from "../../ui/tick";
import { ago, count } from "../../ui/time";
import { Toolbar } from "../../ui/toolbar";
import { Trend } from "../../ui/trend";
import { Value } from "../../ui/value";
import { ConfirmInput, maySubmit } from "../../ui/where";
import { useWidth } from "../../ui/width";
import { say, worded } from "../../words";
import { Checked } from "./checked";
import { Triage, triageOf } from "./triage";

const formats = [
  { id: "html", words: say.findings.htmlReport },
  { id: "markdown", words: say.findings.markdown },
  { id: "xlsx", words: say.findings.excelXlsx },
  { id: "csv", words: "CSV" },
  { id: "junit", words: say.findings.junitXml },
  { id: "playwright", words: say.findings.playwrightTest },
  { id: "json", words: "JSON" },
] as const;

/** What is odd in a run, a finding for each cause: where it shows, how to see it, and what was said of it. */
export function FindingsPage() {
  const at = useFormAddress();
  const [search, setSearch] = useSearchParams();
  const against = Number(search.get("against") ?? 0) || 0;
  const list = useFindings(at, Number(search.get("run") ?? 0) || 0, against);
  const [sought, setSought] = useState("");
  if (list.error instanceof Problem && list.error.status === 404)
    return (
      <Empty title={say.findings.nothingHasBeenRunYet} text={say.findings.aFindingIsWhatIsOdd}>
        <Link className="button button-lead" to={`/sites/${at.site}/forms/${at.form}/cases`}>
          {say.findings.goToCases}
        </Link>
      </Empty>
    );
  if (list.isError) return <Trouble error={list.error} again={() => list.refetch()} />;
  if (list.isPending) return <Waiting what={say.findings.loadingFindings} />;
  const { run: number, findings: all, runs, tally } = list.data;
  const whole = tally.not_run === 0;
  const words = sought.toLowerCase();
  const shown = all.filter((f) => `${f.row} ${f.says} ${f.check} ${f.part} ${f.id}`.toLowerCase().includes(words));
  const picked = shown.find((f) => f.id === search.get("finding")) ?? shown[0];
  const set = (name: string, value: string) =>
    setSearch(
      (s) => {
        if (value) s.set(name, value);
        else s.delete(name);
        return s;
      },
      { replace: true },
    );
  const pick = (id: string) => set("finding", id);
  const compared = list.data.compared;
  const move = (e: KeyboardEvent) => {
    const by = e.key === "ArrowDown" ? 1 : e.key === "ArrowUp" ? -1 : 0;
    // keys may come faster than the page is drawn: what has the focus is where one is
    const here = document.activeElement?.id.replace(/^finding-/, "");
    const next = shown[shown.findIndex((f) => f.id === here) + by];
    if (by === 0 || !next) return;
    e.preventDefault();
    pick(next.id);
    document.getElementById(`finding-${next.id}`)?.focus();
  };
  return (
    <div className="flex min-h-full flex-col lg:h-full">
      <Toolbar>
        <div className="flex grow flex-wrap items-center gap-3">
          <p>
            {say.findings.run} {number}:{" "}
            {all.length > 0 && `${count(all.length, say.findings.finding, say.findings.findings)}, `}
            <span className={whole ? "" : "font-semibold text-unseen"}>{list.data.verdict}</span>
          </p>
          <Link className="link" to={`/sites/${at.site}/forms/${at.form}/may-it-ship`}>
            {say.readiness.mayItShip}
          </Link>
          <Trend runs={list.data.trend} />
          <label className="flex items-center gap-1.5">
            {say.findings.compareWith}
            <select
              className="field"
              value={against}
              onChange={(e) => set("against", e.target.value === "0" ? "" : e.target.value)}
            >
              <option value={0}>–</option>
              {runs
                .filter((r) => r.number !== number)
                .map((r) => (
                  <option key={r.number} value={r.number}>
                    {say.findings.run2} {r.number}
                    {r.environment && `, ${r.environment}`}
                    {r.done < r.total && say.findings.ofWord(r.done, r.total)}
                  </option>
                ))}
            </select>
          </label>
        </div>
        <p className="flex flex-wrap gap-x-4">
          {list.data.findings.some((f) => f.triage?.state === "known" && !f.triage.lapsed) && (
            <a className="link" href={`/api/sites/${at.site}/forms/${at.form}/known-findings`} download>
              {say.findings.knownFindingsYaml}
            </a>
          )}
          {formats.map((f) => (
            <a
              key={f.id}
              className="link inline-flex min-h-6 items-center"
              href={`/api/sites/${at.site}/forms/${at.form}/runs/${number}/report/${f.id}`}
              download
            >
              {f.words}
            </a>
          ))}
        </p>
      </Toolbar>
      <div className="grid min-h-0 flex-1 grid-cols-1 lg:grid-cols-[400px_minmax(0,1fr)]">
        <nav aria-label={say.findings.findings2} className="flex min-h-0 flex-col border-r border-line bg-panel">
          {all.length > 6 && (
            <input
              type="search"
              aria-label={say.findings.searchTheFindings}
              placeholder={say.findings.fieldCheckOrText}
              className="field m-2 shrink-0"
              value={sought}
              onChange={(e) => setSought(e.target.value)}
            />
          )}
          {all.length === 0 && <Clear tally={tally} />}
          <ol className="min-h-0 flex-1 overflow-y-auto" onKeyDown={move}>
            {shown.map((f) => (
              <Line key={f.id} finding={f} picked={f.id === picked?.id} pick={() => pick(f.id)} />
            ))}
          </ol>
          {all.length > 0 && shown.length === 0 && (
            <p className="px-5 py-4">
              {say.findings.noFindingContains}
              {sought}”.
            </p>
          )}
          {compared && <Compared of={compared} />}
          <UnusualInRun at={at} run={number} />
          {list.data.not_shown.length > 0 && (
            <p className="border-t border-line px-5 py-2 text-[12.5px]">
              {whole ? say.findings.knownNotFoundInThis : say.findings.knownNotFoundInWhat}{" "}
              {list.data.not_shown.map((k) => `${k.id}${k.triage.comment ? ` (${k.triage.comment})` : ""}`).join(", ")}
            </p>
          )}
        </nav>
        <main
          tabIndex={0}
          aria-label={say.findings.theChosenFinding}
          className="min-h-0 overflow-y-auto bg-panel px-6 py-4"
        >
          {picked && <Detail key={picked.id} finding={picked} run={number} against={against} />}
          {all.length === 0 && tally.not_run < tally.total && (
            <Checked at={at} run={number} newest={number === runs[0]?.number} />
          )}
        </main>
      </div>
    </div>
  );
}

/** What breaks promises that hold on every form, and of which the document says nothing; nothing is shown where nothing does. */
function UnusualInRun({ at, run }: { at: FormAt; run: number }) {
  const unusual = useUnusual(at, run);
  if (!unusual.data || unusual.data.length === 0) return null;
  return (
    <section
      aria-label={say.unusual.inThisRun}
      className="max-h-[45%] shrink-0 overflow-y-auto border-t border-line px-5 py-2"
    >
      <h2 className="text-[14px]">
        {say.unusual.unusual} ({unusual.data.length})
      </h2>
      <p className="text-soft">{say.unusual.about}</p>
      <UnusualList list={unusual.data} />
    </section>
  );
}

function Line({ finding, picked, pick }: { finding: FindingView; picked: boolean; pick: () => void }) {
  const said = triageOf(finding.triage);
  return (
    <li className="border-b border-line">
      <button
        id={`finding-${finding.id}`}
        type="button"
        aria-pressed={picked}
        className={`grid w-full grid-cols-[22px_minmax(0,1fr)] gap-2 px-4 py-2.5 text-left ${picked ? "bg-oddground" : ""}`}
        onClick={pick}
      >
        <Tick verdict="odd" height={22} />
        <span>
          <span className="block">{finding.says}</span>
          <span className="flex justify-between text-[12.5px] text-soft">
            <span>
              {finding.newly && <span className="text-odd">{say.findings.newlyOdd} </span>}
              {worded(finding.severity)} · {finding.row} · {finding.check} ·{" "}
              {count(finding.cases.length, say.findings.caseWord, say.findings.cases)}
              {said && ` · ${said}`}
            </span>
            <Past finding={finding} />
          </span>
        </span>
      </button>
    </li>
  );
}

/** What it means that a run shows no finding: that nothing is odd only where all of it was run and observed. */
function Clear({ tally }: { tally: Schemas["ReportTally"] }) {
  const run = tally.total - tally.not_run;
  return (
    <div className="px-5 py-4">
      {run === 0 ? (
        <p>{say.findings.noCaseOfThisRun}</p>
      ) : tally.not_run > 0 ? (
        <p>
          {say.findings.nothingOddInThe} {count(run, say.findings.caseWord, say.findings.cases)} {say.findings.that}{" "}
          {run === 1 ? say.findings.was : say.findings.were} {say.findings.run3}{" "}
          <strong className="text-unseen">
            {count(tally.not_run, say.findings.caseWord, say.findings.cases)} {say.findings.notRun}
          </strong>
        </p>
      ) : tally.not_observed > 0 ? (
        <p>
          {say.findings.nothingOddInWhatWas}{" "}
          <strong className="text-unseen">
            {count(tally.not_observed, say.findings.caseWord, say.findings.cases)} {say.findings.notObserved}
          </strong>
        </p>
      ) : (
        <p>{say.findings.nothingIsOddInThis}</p>
      )}
    </div>
  );
}

/** What the run compared with shows, and this one does not. */
function Compared({ of }: { of: Schemas["ComparedView"] }) {
  const lists = [
    { words: say.findings.noLongerOdd, list: of.no_longer_odd },
    { words: say.findings.notObservedAgainPerhapsStill, list: of.not_seen_again },
  ];
  return (
    <section
      aria-label={say.findings.comparedWithRun(of.with)}
      className="max-h-[40%] overflow-y-auto border-t-2 border-rule px-4 py-2"
    >
      <h3>
        {say.findings.comparedWithRun2} {of.with}: {of.newly_odd} {say.findings.newlyOdd2} {of.still_odd}{" "}
        {say.findings.stillOdd}
      </h3>
      {lists.map(
        (l) =>
          l.list.length > 0 && (
            <div key={l.words}>
              <p className="text-[12.5px] text-soft">{l.words}</p>
              <ul>
                {l.list.map((g) => (
                  <li key={g.id} className="border-t border-line py-0.5">
                    {g.says}
                  </li>
                ))}
              </ul>
            </div>
          ),
      )}
      {of.changed.length > 0 && (
        <details className="text-[12.5px]">
          <summary>
            {count(of.changed.length, say.findings.change, say.findings.changes)} {say.findings.ofTheSpecificationSince}
          </summary>
          <ul>
            {of.changed.map((what) => (
              <li key={what}>{what}</li>
            ))}
          </ul>
        </details>
      )}
      {[
        { words: say.findings.newlyCovered, list: of.newly_covered },
        { words: say.findings.noLongerCovered, list: of.no_longer_covered },
      ].map(
        (l) =>
          l.list.length > 0 && (
            <details key={l.words} className="text-[12.5px]">
              <summary>
                {l.list.length} {l.words}
              </summary>
              <ul>
                {l.list.map((what) => (
                  <li key={what} className="value">
                    {what}
                  </li>
                ))}
              </ul>
            </details>
          ),
      )}
    </section>
  );
}

/** A small tick a run, the oldest first: leaning where the finding showed, dotted where none of its cases was observed. */
function Past({ finding }: { finding: FindingView }) {
  if (finding.seen.length < 2) return null;
  const odd = finding.seen.filter((s) => s.verdict === "odd").length;
  const unseen = finding.seen.filter((s) => s.verdict === "not observed").length;
  const words = say.findings.foundInOfTheLatest(
    odd,
    finding.seen.length,
    unseen > 0 ? say.findings.notObservedIn(unseen) : "",
  );
  return (
    <span role="img" aria-label={words} title={words} className="flex">
      {finding.seen.map((s) => (
        <span key={s.run} aria-hidden="true" className="-ml-[5px]">
          <Tick verdict={s.verdict} height={12} />
        </span>
      ))}
    </span>
  );
}

function Detail({ finding, run, against }: { finding: FindingView; run: number; against: number }) {
  const at = useFormAddress();
  const form = useFormView();
  const base = `/sites/${at.site}/forms/${at.form}`;
  const further = useFurther(at, run, finding.id);
  const read = useFinding(at, run, finding.id, further.isPending);
  const looking = read.data?.looking;
  const [confirmed, setConfirmed] = useState("");
  const there = read.data?.environment;
  const where = { environment: there?.id ?? "", confirmed };
  const direct = (read.data?.differences ?? []).filter((d) => !d.follows);
  const follows = (read.data?.differences ?? []).filter((d) => d.follows);
  const caseLink = (id: string) => `${base}/case?id=${encodeURIComponent(id)}&run=${run}`;
  return (
    <article className="max-w-[860px]">
      <p className="text-[12.5px] text-soft">
        {finding.row} · {worded(finding.severity)} · {finding.check} · {finding.part} {say.findings.finding2}{" "}
        {finding.id}
      </p>
      <h2 className="text-[18px] leading-snug">{finding.says}</h2>
      {against > 0 && finding.row_id && <ThenAndNow at={at} row={finding.row_id} run={run} against={against} />}
      {read.isPending && <Waiting what={say.findings.loadingTheSteps} />}
      {read.isError && <Trouble error={read.error} again={() => read.refetch()} />}
      {read.data && (
        <>
          <Differences list={direct} caption={say.findings.whatIsOdd} />
          {follows.length > 0 && (
            <details className="mt-1 text-[12.5px]">
              <summary>
                {follows.length === 1
                  ? say.findings.n1MoreDifferenceFollows
                  : say.findings.moreDifferencesFollow(follows.length)}{" "}
                {say.findings.fromThis}
              </summary>
              <Differences list={follows} caption={say.findings.whatFollowsFromIt} />
            </details>
          )}
          {read.data.unpromised.length > 0 && (
            <section className="mt-3 border-l-4 border-rule pl-3">
              <p>{say.form.nobodyPromised(finding.cases.length)}</p>
              <SeenMessages fields={form.fields} seen={read.data.unpromised} />
            </section>
          )}
          <h3 className="mt-4">{say.findings.stepsToReproduce}</h3>
          <Steps steps={read.data.steps} />
          <p className="mt-3 flex flex-wrap gap-3">
            <Link className="button" to={caseLink(finding.simplest)}>
              {say.findings.evidence}
            </Link>
            <Copy text={read.data.markdown} of={say.findings.theFinding} words={say.findings.copyAsMarkdown} />
            {read.data.curl && (
              <Copy text={read.data.curl} of={say.findings.theCommand} words={say.findings.copyForCurl} />
            )}
            {there?.protected === "confirm" && <ConfirmInput confirmed={confirmed} set={setConfirmed} />}
            <button
              type="button"
              className="button"
              disabled={further.isPending || !!looking || !maySubmit(where, there ? [there] : [])}
              title={there?.protected === "no_writes" ? say.run.onlyCasesThatWriteNothing : undefined}
              onClick={() => further.mutate(confirmed)}
            >
              {say.findings.investigate}
            </button>
          </p>
          {(further.isPending || looking) && (
            <Looking at={at} run={run} finding={finding.id} made={looking?.made ?? 0} most={looking?.most} />
          )}
          {further.isError && <Trouble error={further.error} />}
          {read.data.further && (
            <section aria-label={say.findings.investigated} className="mt-2 border-l-4 border-rule pl-3">
              <p>
                <strong>{read.data.further.words}</strong>{" "}
                <span className="text-soft">
                  ({count(read.data.further.submissions, say.findings.submission, say.findings.submissions)},{" "}
                  {ago(read.data.further.at)})
                </span>
              </p>
              {read.data.further.limit && <Probes limit={read.data.further.limit} />}
              <details>
                <summary>{say.findings.simplestCaseThatShowsIt}</summary>
                <Steps steps={read.data.further.steps ?? []} />
              </details>
            </section>
          )}
          <Triage
            at={at}
            run={run}
            finding={finding.id}
            row={finding.row_id}
            triage={finding.triage}
            proposed={finding.proposed}
            history={read.data.history}
            version={read.data.version}
          />
        </>
      )}
      <h3 className="mt-4">
        {finding.cases.length === 1 ? say.findings.n1Case : say.findings.cases2(finding.cases.length)}
      </h3>
      <ul>
        {finding.cases.slice(0, maxCases).map((id) => (
          <li key={id}>
            <Link className="link value inline-block min-h-6 py-0.5" to={caseLink(id)}>
              {id}
            </Link>
          </li>
        ))}
        {finding.cases.length > maxCases && (
          <li>
            <Link className="link inline-block min-h-6" to={`${base}/run?run=${run}`}>
              {say.findings.and} {finding.cases.length - maxCases} {say.findings.moreInTheRun}
            </Link>
          </li>
        )}
      </ul>
    </article>
  );
}

function Differences({ list, caption }: { list: Schemas["Difference"][]; caption: string }) {
  return (
    <table className="mt-3 w-full border-collapse text-left [&_.value]:wrap-anywhere [&_.value]:break-normal">
      <caption className="sr-only">{caption}</caption>
      <thead className="text-[12px] text-soft">
        <tr>
          {["check", "part", "expected", "observed"].map((h) => (
            <th key={h} scope="col" className="py-1 pr-3 font-normal">
              {worded(h)}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {list.map((d) => (
          <tr key={`${d.check} ${d.part}`} className="border-t border-line align-top">
            <td className="py-1 pr-3 whitespace-nowrap">{d.check}</td>
            <td className="py-1 pr-3">{d.part}</td>
            <td className="py-1 pr-3">
              <Value>{d.expected}</Value>
            </td>
            <td className="py-1 text-odd">
              <Value>{d.observed}</Value>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const maxCases = 12;

/** The scales of a finding's row, with the ticks of the run compared with above those of this one. */
function ThenAndNow(p: { at: FormAt; row: string; run: number; against: number }) {
  const now = useRun(p.at, p.run);
  const then = useRun(p.at, p.against);
  const cases = useCases(p.at, { ...usualPlan, depth: (now.data?.run.depth ?? "standard") as Depth });
  const [measure, width] = useWidth(600);
  const row = cases.data?.rows?.find((r) => r.id === p.row);
  if (!now.data || !then.data || !row) return null;
  return (
    <section aria-label={say.findings.thenAndNow} className="mt-2">
      <div ref={measure} />
      {[then.data, now.data].map((view) => {
        const marks = new Map(view.marks.map((m) => [m.case, m]));
        const verdict = (id: string): Verdict => {
          const v = marks.get(id)?.verdict;
          return v ? (v as Verdict) : "to come";
        };
        return (
          <div key={view.run.number} className="border-t border-line">
            <p className="text-[12.5px] text-soft">
              {say.findings.run2} {view.run.number}
            </p>
            <ScaleRow
              scales={row.scales}
              width={width}
              label={say.findings.run4(row.label, view.run.number)}
              slim
              verdictOf={verdict}
              titleOf={(id) => marks.get(id)?.headline ?? id}
              selected={null}
              onSelect={() => undefined}
            />
          </div>
        );
      })}
    </section>
  );
}

/** How far looking further is. */
function Looking(p: { at: FormAt; run: number; finding: string; made: number; most?: number }) {
  const stop = useStopLooking(p.at, p.run, p.finding);
  return (
    <p className="mt-2 flex items-center gap-3">
      <span role="status">
        {say.findings.investigating} {count(p.made, say.findings.submission, say.findings.submissions)}
      </span>
      <progress aria-label={say.findings.investigating2} value={Math.min(p.made, p.most ?? 1)} max={p.most ?? 1} />
      <button type="button" className="button" disabled={stop.isPending} onClick={() => stop.mutate()}>
        {say.findings.stop}
      </button>
    </p>
  );
}

/** What a person does, with the values to copy. */
function Steps({ steps }: { steps: Schemas["FindingDetail"]["steps"] }) {
  return (
    <ol className="list-decimal pl-5">
      {steps.map((s, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: steps have no identity but their place
        <li key={i}>
          {s.do}
          <ul>
            {(s.values ?? []).map((v) => (
              <li
                key={v.field}
                className="grid grid-cols-[minmax(0,2fr)_minmax(0,3fr)_auto] lg:grid-cols-[200px_minmax(0,1fr)_auto] gap-2 border-t border-line"
              >
                <span>{v.field}</span>
                {v.secret || v.text === "" ? (
                  <span className="text-soft">{v.text || say.findings.leftBlank}</span>
                ) : v.choice ? (
                  say.findings.choice(v.choice, v.text)
                ) : (
                  <Value>{v.text}</Value>
                )}
                {!v.secret && v.text !== "" && <Copy text={v.text} of={v.field} />}
              </li>
            ))}
          </ul>
        </li>
      ))}
    </ol>
  );
}

/** Copies a text, and says so. */
function Copy({ text, of, words }: { text: string; of: string; words?: string }) {
  const [done, setDone] = useState(false);
  return (
    <button
      type="button"
      className={words === undefined ? "link min-h-6 min-w-8 text-[12.5px]" : "button"}
      aria-label={words === undefined ? say.findings.copy(of) : undefined}
      onClick={() => navigator.clipboard.writeText(text).then(() => setDone(true))}
      onBlur={() => setDone(false)}
    >
      {done ? say.findings.copied : (words ?? say.findings.copyWord)}
    </button>
  );
}
