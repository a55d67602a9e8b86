import { useState } from "react";
import { type SiteRun, useSiteRun, useStartSiteRun, useStopSiteRun } from "../api/readiness";
import { say, worded } from "../words";
import { Keys } from "./keys";
import { inQuery, mayStart, ownAddress, WhereToRun } from "./where";

/** The id of the button that runs everything of a site. */
export const runEverythingId = (site: string) => `run-all-${site}`;

/** Runs all forms of a site, its access and its journeys, and says how far that is. */
export function RunWholeSite({ site, title }: { site: string; title: string }) {
  const run = useSiteRun(site);
  const start = useStartSiteRun(site);
  const stop = useStopSiteRun(site);
  const [where, setWhere] = useState(ownAddress);
  const view = run.data;
  const places = view?.environments ?? [];
  const error = start.error ?? stop.error;
  return (
    <div className="flex flex-wrap items-center gap-3 text-[12.5px]">
      {view?.running ? (
        <>
          <Progress view={view} title={title} />
          <button type="button" className="button" disabled={view.stopping} onClick={() => stop.mutate()}>
            {view.stopping ? say.readiness.stopping : say.readiness.stop}
          </button>
        </>
      ) : (
        <>
          <WhereToRun where={where} environments={places} set={setWhere} />
          <button
            type="button"
            id={runEverythingId(site)}
            className="button"
            disabled={start.isPending || run.isPending || !mayStart(where, places)}
            title={say.readiness.runEverythingOf(title)}
            onClick={() => start.mutate(inQuery(where))}
          >
            {say.readiness.runEverything}
            <Keys keys={["Ctrl", "Enter"]} />
          </button>
        </>
      )}
      {view && !view.running && <Outcome view={view} />}
      {error && (
        <p role="alert" className="text-unseen">
          {error.message}
        </p>
      )}
    </div>
  );
}

/** One progress over all parts: whole parts, and of the form under way its share of cases. */
export function shareDone(view: SiteRun): number {
  if (view.parts.length === 0) return 0;
  const shares = view.parts.map((p) => {
    if (p.state === "waiting") return 0;
    if (p.state !== "running") return 1;
    return p.total ? (p.done ?? 0) / p.total : 0;
  });
  return shares.reduce((a, b) => a + b, 0) / view.parts.length;
}

function Progress({ view, title }: { view: SiteRun; title: string }) {
  const now = view.parts.find((p) => p.state === "running");
  // between two parts it is the one that comes next
  const at = view.parts.findIndex((p) => p.state === "running" || p.state === "waiting");
  const nth = at < 0 ? view.parts.length : at + 1;
  return (
    <span className="flex items-center gap-2">
      <progress max={100} value={Math.round(shareDone(view) * 100)} aria-label={say.readiness.progressOf(title)} />
      <span>
        {say.readiness.partOf(nth, view.parts.length)}
        {now && `: ${now.title || say.sites.access}`}
        {now?.total ? ` ${say.readiness.casesDone(now.done ?? 0, now.total)}` : ""}
      </span>
    </span>
  );
}

/** What became of the parts that did not come to their end. */
function Outcome({ view }: { view: SiteRun }) {
  const rest = view.parts.filter((p) => p.state === "failed" || p.state === "stopped");
  if (rest.length === 0) return null;
  return (
    <span className="text-unseen">
      {rest
        .map((p) => `${p.title || say.sites.access}: ${worded(p.state)}${p.problem ? `. ${p.problem}` : ""}`)
        .join(" · ")}
    </span>
  );
}
