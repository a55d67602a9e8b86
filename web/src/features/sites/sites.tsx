import { useCallback, useEffect, useState } from "react";
import { Link, useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { useSites } from "../../api/queries";
import { type PartReadiness, useReadiness } from "../../api/readiness";
import { typing } from "../../ui/keys";
import { Menu } from "../../ui/menu";
import { Trouble, Waiting } from "../../ui/notice";
import { usePageTitle } from "../../ui/page-title";
import { partLink, readyMark } from "../../ui/readiness";
import { RunWholeSite, runEverythingId } from "../../ui/site-run";
import { Legend, letterVerdict, Tick, TickMark } from "../../ui/tick";
import { ago, count, moment } from "../../ui/time";
import { Trend } from "../../ui/trend";
import { say, worded } from "../../words";
import { FormMenu } from "./form-menu";
import { NewForm, NewSite } from "./new-form";

type Site = Schemas["SiteView"];
type Brief = Schemas["FormBrief"];

export function SitesPage() {
  usePageTitle(say.sites.sites);
  const sites = useSites();
  const [begun, setBegun] = useState("");
  return (
    <div className="flex min-h-full flex-col">
      <header className="flex min-h-[75px] flex-wrap items-center justify-between gap-2 py-2 border-b border-line bg-panel px-5">
        <div>
          <h1 className="text-[17px]">{say.sites.sites}</h1>
          <p className="text-[12.5px] text-soft">
            {say.sites.allFormsAndTheirLatest} ·{" "}
            <Link className="link" to="/may-it-ship">
              {say.readiness.mayItShip}
            </Link>
          </p>
        </div>
        <Menu />
      </header>
      <main className="flex-1">
        {sites.isPending && <Waiting what={say.sites.loadingSites} />}
        {sites.isError && <Trouble error={sites.error} again={() => sites.refetch()} />}
        {sites.data?.length === 0 && <p className="m-5">{say.sites.thereAreNoSitesYet}</p>}
        {sites.data?.map((s) => (
          <SiteBlock key={s.id} site={s} begun={s.id === begun} only={sites.data.length === 1} />
        ))}
        {sites.data && <NewSite onMade={setBegun} />}
      </main>
      <footer className="border-t border-line px-5 py-3">
        <Legend />
      </footer>
    </div>
  );
}

function SiteBlock({ site, begun, only }: { site: Site; begun: boolean; only: boolean }) {
  const ready = useReadiness(site.id);
  // what the button may not start, the key may not
  const run = useCallback(() => document.getElementById(runEverythingId(site.id))?.click(), [site.id]);
  // of one site alone Ctrl+Enter needs no focus in it
  useEffect(() => {
    const listen = (e: KeyboardEvent) => {
      if (e.key !== "Enter" || !e.ctrlKey || e.target !== document.body) return;
      e.preventDefault();
      run();
    };
    if (only) window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, [only, run]);
  const verdict = ready.data?.verdict;
  // what the site has a line of needs no link besides
  const lacks = (kind: PartReadiness["kind"]) =>
    ready.isSuccess && !ready.data.sites[0]?.parts.some((p) => p.kind === kind);
  const beyond = ready.data?.sites[0]?.parts.filter((p) => p.kind !== "form") ?? [];
  return (
    <section
      aria-label={site.title}
      className="border-b border-line bg-panel"
      onKeyDown={(e) => {
        if (e.key !== "Enter" || !e.ctrlKey) return;
        // neither what is typed nor a dialog that was opened from here starts a run
        if (typing(e.nativeEvent) || !e.currentTarget.contains(e.target as Node)) return;
        e.preventDefault();
        run();
      }}
    >
      <div className="flex flex-wrap items-center justify-between gap-x-4 gap-y-2 px-5 pt-4 pb-2">
        <div>
          <div className="flex flex-wrap items-baseline gap-x-3">
            <h2 className="text-[15px]">{site.title}</h2>
            <span className="value text-soft">{site.address}</span>
            {lacks("access") && (
              <Link className="link text-[12.5px]" to={`/sites/${site.id}/access`}>
                {say.sites.access}
              </Link>
            )}
            {lacks("journey") && (
              <Link className="link text-[12.5px]" to={`/sites/${site.id}/journeys`}>
                {say.sites.journeys}
              </Link>
            )}
            <Link className="link text-[12.5px]" to={`/sites/${site.id}/settings`}>
              {say.sites.settings2}
            </Link>
          </div>
          {verdict && (
            <p className="mt-1 flex items-center gap-2">
              <Tick verdict={readyMark(verdict.state)} height={18} />
              <Link
                className={`link inline-block first-letter:uppercase ${verdict.state === "not_ready" ? "font-semibold text-odd" : ""}`}
                to={`/sites/${site.id}/may-it-ship`}
              >
                {verdict.headline}
              </Link>
            </p>
          )}
        </div>
        <RunWholeSite site={site.id} title={site.title} />
      </div>
      {site.forms.map((f) => (
        <FormLine key={f.id} site={site.id} form={f} />
      ))}
      {beyond.map((p) => (
        <BeyondLine key={`${p.kind} ${p.id}`} site={site.id} part={p} />
      ))}
      {site.forms.length === 0 && <p className="px-5 pb-1 text-soft">{say.sites.thisSiteHasNoForms}</p>}
      <NewForm site={site.id} begun={begun} />
    </section>
  );
}

function FormLine({ site, form }: { site: string; form: Brief }) {
  const base = `/sites/${site}/forms/${form.id}`;
  const go = useNavigate();
  const run = form.run;
  const state = run
    ? run.state === "running"
      ? say.sites.runInProgressOf(run.number, run.done, run.total)
      : say.sites.run(
          run.number,
          run.state === "finished" ? "" : say.sites.ofRun(run.state, run.done, run.total),
          ago(run.started_at),
        )
    : worded("never run");
  const stale = run && run.revision !== form.revision ? say.sites.rulesChangedSinceRevision(form.revision) : "";
  if (form.problem)
    return (
      <div className="border-t border-line px-5 py-3">
        <Link to={`${base}/form`} className="link text-[14px] font-semibold">
          {form.title}
        </Link>{" "}
        <FormMenu site={site} form={form} />
        <p className="text-[12.5px] text-unseen">
          {say.sites.noCasesCanBeDesigned} {form.problem}.
        </p>
      </div>
    );
  return (
    <div className="relative grid items-center gap-x-4 gap-y-1 border-t border-line py-3 pr-16 pl-5 md:grid-cols-[248px_minmax(0,1fr)_260px]">
      <div className="absolute top-3 right-5">
        <FormMenu site={site} form={form} />
      </div>
      <div>
        <Link to={`${base}/cases`} className="link text-[14px] font-semibold">
          {form.title}
        </Link>
        <p className="text-[12px] text-soft">
          {count(form.fields, say.sites.field, say.sites.fields)} · {count(form.rules, say.sites.rule, say.sites.rules)}{" "}
          · {count(form.cases, say.sites.caseWord, say.sites.cases)}
        </p>
      </div>
      <div>
        <Strip letters={form.strip} label={form.title} />
        <Past form={form} base={base} />
      </div>
      <div className="text-[12.5px] md:text-right">
        {run && run.odd > 0 && (
          <button type="button" className="link font-semibold text-odd" onClick={() => go(`${base}/findings`)}>
            {count(run.odd, say.sites.oddCase, say.sites.oddCases)},{" "}
            {count(run.causes, say.sites.cause, say.sites.causes)}
          </button>
        )}
        {run && run.odd === 0 && run.done === run.total && run.not_observed === 0 && run.total > 0 && (
          <span>{run.none > 0 ? say.sites.allAsExpectedNotApplicable(run.none) : say.sites.allAsExpected}</span>
        )}
        {run && run.not_observed > 0 && (
          <span className="ml-2 text-unseen">
            {run.not_observed} {say.sites.notObserved}
          </span>
        )}
        {run && run.state !== "running" && run.done < run.total && (
          <span className="ml-2 text-unseen">
            {run.total - run.done} {say.sites.notRun}
          </span>
        )}
        <p className="text-soft" title={run ? moment(run.started_at) : undefined}>
          {state}
        </p>
        {stale && <p className="text-unseen">{stale}</p>}
      </div>
    </div>
  );
}

/** A site's access, or a journey, as a line like a form's. */
function BeyondLine({ site, part }: { site: string; part: PartReadiness }) {
  const title = part.kind === "access" ? say.sites.access : part.title;
  const { tally } = part;
  const letters = "e".repeat(tally.as_expected) + "o".repeat(tally.odd) + "n".repeat(tally.not_observed);
  return (
    <div className="grid items-center gap-x-4 gap-y-1 border-t border-line py-3 pr-16 pl-5 md:grid-cols-[248px_minmax(0,1fr)_260px]">
      <div>
        <Link to={partLink(site, part)} className="link text-[14px] font-semibold">
          {title}
        </Link>
        <p className="text-[12px] text-soft">
          {part.kind === "access" ? say.sites.whoMayOpenWhat : worded(part.kind)}
          {tally.total > 0 && ` · ${say.readiness.checks(tally.total)}`}
        </p>
      </div>
      <div>{tally.total > 0 && <Strip letters={letters} label={title} />}</div>
      <div className="text-[12.5px] md:text-right">
        <p>
          {tally.odd > 0 && <span className="font-semibold text-odd">{`${tally.odd} ${worded("odd")}`}</span>}
          {tally.not_observed > 0 && (
            <span className="ml-2 text-unseen">
              {tally.not_observed} {say.sites.notObserved}
            </span>
          )}
          {tally.total > 0 && tally.as_expected === tally.total && say.sites.allAsExpected}
        </p>
        <p className="text-soft" title={part.at ? moment(part.at) : undefined}>
          {part.at ? ago(part.at) : worded("never run")}
        </p>
      </div>
    </div>
  );
}

/** What became of the findings since the run before, and how many each of the latest runs had. */
function Past({ form, base }: { form: Brief; base: string }) {
  const c = form.changed;
  if (!c) return null;
  const words = [
    c.newly_odd > 0 && `${c.newly_odd} newly odd`,
    c.no_longer_odd > 0 && say.sites.noLongerFound(c.no_longer_odd),
    c.not_seen_again > 0 && say.sites.notObservedAgain(c.not_seen_again),
  ].filter(Boolean);
  return (
    <p className="flex items-center gap-3 text-[12px] text-soft">
      <Trend runs={form.trend} />
      {words.length === 0 ? (
        say.sites.theSameFindingsAsIn(c.since)
      ) : (
        <Link className="link" to={`${base}/findings?against=${c.since}`}>
          {words.join(", ")} {say.sites.sinceRun} {c.since}
        </Link>
      )}
    </p>
  );
}

/** All cases of a form as one line of ticks; odd ones are drawn last and stand out. */
function Strip({ letters, label }: { letters: string; label: string }) {
  const all = [...letters];
  const step = Math.min(8, 620 / Math.max(1, all.length));
  const ticks = all.map((l, i) => ({ verdict: letterVerdict[l] ?? "to come", x: 5 + i * step }));
  const odd = all.filter((l) => l === "o" || l === "w").length;
  return (
    <svg
      viewBox={`0 0 ${10 + all.length * step + 8} 24`}
      // what is as expected stands back, so that the odd is the heaviest mark
      className="w-full max-w-[760px] [--ink:var(--rule)]"
      height="30"
      preserveAspectRatio="xMinYMid meet"
      role="img"
      aria-label={say.sites.casesOfWhichOdd(label, all.length, odd)}
    >
      {[...ticks.filter((t) => t.verdict !== "odd"), ...ticks.filter((t) => t.verdict === "odd")].map((t) => (
        <TickMark key={t.x} verdict={t.verdict} x={t.x} height={24} />
      ))}
    </svg>
  );
}
