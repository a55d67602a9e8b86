import { useState } from "react";
import { Link, useParams } from "react-router";
import { useJourneys, useWalk } from "../../api/beyond";
import type { Schemas } from "../../api/client";
import { checkName } from "../../api/words.gen";
import { Menu } from "../../ui/menu";
import { Trouble, Waiting } from "../../ui/notice";
import { usePageTitle } from "../../ui/page-title";
import { Legend, Tick, type Verdict } from "../../ui/tick";
import { ago, moment } from "../../ui/time";
import { inQuery, mayStart, ownAddress, WhereToRun, writesNothing } from "../../ui/where";
import { say, worded } from "../../words";

type Journey = Schemas["JourneyView"];
/** A station or walk that was not made yet has no verdict. */
type Station = Omit<Schemas["Station"], "verdict"> & { verdict: Verdict };
type Walk = Omit<Schemas["Walk"], "verdict" | "stations"> & { verdict: Verdict; stations: Station[] | null };

/** A site's journeys: each way through them as a line of stations. */
export function JourneysPage() {
  const { site = "" } = useParams();
  usePageTitle(say.form.journeys, site);
  const [where, setWhere] = useState(ownAddress);
  const read = useJourneys(site, inQuery(where));
  const walk = useWalk(site, inQuery(where));
  const v = read.data;
  return (
    <div className="flex min-h-full flex-col lg:h-full">
      <header className="flex min-h-[75px] shrink-0 flex-wrap items-center justify-between gap-2 py-2 border-b border-line bg-panel px-5">
        <div>
          <h1 className="text-[17px]">
            {v?.title || site}
            {say.journeys.journeys}
          </h1>
          <p className="text-[12.5px] text-soft">
            <Link className="link" to="/">
              {say.journeys.sites}
            </Link>{" "}
            ·{" "}
            <Link className="link" to={`/sites/${site}/access`}>
              {say.journeys.access}
            </Link>
            {v?.mail && say.journeys.mailIsReceivedAt(v.mail)}
          </p>
        </div>
        <div className="flex flex-wrap items-center gap-3">
          <WhereToRun where={where} environments={v?.environments} set={setWhere} />
          <Menu />
        </div>
      </header>
      {walk.isError && (
        <p role="alert" className="border-l-4 border-unseen bg-panel px-4 py-2">
          {walk.error.message}
        </p>
      )}
      <main className="min-h-0 flex-1 overflow-auto">
        {read.isPending && <Waiting what={say.journeys.loadingJourneys} />}
        {read.isError && <Trouble error={read.error} again={() => read.refetch()} />}
        {v?.journeys.length === 0 && <p className="m-5 max-w-[66ch]">{say.journeys.theSiteDocumentHasNo}</p>}
        {v?.journeys.map((j) => (
          <JourneyBlock
            key={j.id}
            journey={j}
            walking={walk.isPending && walk.variables === j.id}
            may={mayStart(where, v.environments) && !writesNothing(where, v.environments)}
            walk={() => walk.mutate(j.id)}
          />
        ))}
      </main>
      <footer className="shrink-0 border-t border-line bg-panel px-5 py-2">
        <Legend />
      </footer>
    </div>
  );
}

function JourneyBlock({
  journey,
  walking,
  may,
  walk,
}: {
  journey: Journey;
  walking: boolean;
  /** Whether the environment that is chosen lets it be run. */
  may: boolean;
  walk: () => void;
}) {
  const walks: Walk[] = journey.report?.walks ?? [
    {
      id: `${journey.id}/whole`,
      title: say.journeys.mainPath,
      headline: "",
      verdict: "to come",
      stations: journey.steps.map((s, step) => ({ step, words: s.words, verdict: "to come" as const, headline: "" })),
    },
  ];
  const oddWalk = Math.max(
    0,
    walks.findIndex((w) => w.verdict === "odd"),
  );
  const oddStation = Math.max(0, walks[oddWalk]?.stations?.findIndex((s) => s.verdict === "odd") ?? 0);
  const [at, setAt] = useState<[number, number] | null>(null);
  const [w, s] = at ?? [oddWalk, oddStation];
  const picked = walks[w]?.stations?.[s];
  return (
    <section aria-label={journey.title || journey.id} className="border-b border-line bg-panel">
      <div className="flex items-baseline gap-4 px-5 pt-4">
        <h2 className="text-[15px]">{journey.title || journey.id}</h2>
        <span className="text-[12.5px] text-soft" title={journey.report ? moment(journey.report.started) : undefined}>
          {journey.report ? say.journeys.run(ago(journey.report.started)) : say.journeys.notRunYet}
        </span>
        <button type="button" className="button ml-auto" disabled={walking || !may} onClick={walk}>
          {walking ? say.journeys.running : say.journeys.runAllPaths}
        </button>
      </div>
      <div className="grid grid-cols-1 lg:grid-cols-[1fr_330px]">
        <div tabIndex={0} className="min-w-0 overflow-x-auto px-5 pt-1 pb-5">
          {walks.map((one, i) => (
            <div key={one.id} className="mt-3">
              <p className="text-[12.5px]">
                <span className="font-semibold">{one.title}</span>{" "}
                {one.verdict === "odd" && <span className="text-odd">{one.headline}</span>}
                {one.verdict === "not observed" && <span className="text-unseen">{one.headline}</span>}
              </p>
              <Line
                journey={journey}
                stations={one.stations ?? []}
                picked={i === w ? s : -1}
                pick={(k) => setAt([i, k])}
              />
            </div>
          ))}
        </div>
        <aside aria-label={say.journeys.selectedStep} className="border-l border-line px-4 py-4">
          {picked && <Detail station={picked} />}
        </aside>
      </div>
    </section>
  );
}

function Line(props: { journey: Journey; stations: Station[]; picked: number; pick: (k: number) => void }) {
  return (
    <ol className="relative flex">
      {props.stations.map((s, k) => {
        const step = props.journey.steps[s.step];
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: a station may come twice
          <li key={k} className="relative w-[172px] shrink-0">
            <span aria-hidden="true" className="absolute top-[25px] right-0 left-0 border-t-2 border-rule" />
            <button
              type="button"
              aria-pressed={props.picked === k}
              className={`relative flex w-full flex-col items-start gap-1 px-1.5 py-1 text-left ${props.picked === k ? "outline-2 outline-ink" : ""}`}
              onClick={() => props.pick(k)}
            >
              <span className="flex h-[42px] items-center">
                <span className={`px-0.5 ${s.verdict === "odd" ? "bg-oddground" : ""}`}>
                  <Tick verdict={s.verdict as Verdict} height={30} />
                </span>
              </span>
              <span className={s.verdict === "odd" ? "font-semibold text-odd" : ""}>{s.words}</span>
              <span className="text-[12px] text-soft">
                {(s.then || (s.verdict === "to come" && step?.then)) && (
                  <>
                    {say.journeys.afterwards} {s.then || step?.then}
                  </>
                )}
                {step && step.tables.length > 0 && (
                  <span className="value block text-[11.5px]">{step.tables.join(", ")}</span>
                )}
              </span>
            </button>
          </li>
        );
      })}
    </ol>
  );
}

function Detail({ station }: { station: Station }) {
  const parts = [
    ...(station.judgement?.checks ?? []).flatMap((c) =>
      c.parts.filter((p) => p.verdict !== "does not apply").map((p) => ({ check: checkName[c.check], ...p })),
    ),
    ...(station.state ?? []).map((p) => ({ check: "", ...p })),
  ];
  const order = ["odd", "not observed", "as expected"];
  parts.sort((a, b) => order.indexOf(a.verdict) - order.indexOf(b.verdict));
  return (
    <>
      <h3 className="text-[14px]">{station.words}</h3>
      {station.headline && (
        <p className={station.verdict === "odd" ? "font-semibold text-odd" : "text-soft"}>{station.headline}</p>
      )}
      {(station.changes ?? []).length > 0 && (
        <p className="mt-2 text-[12.5px]">
          {(station.changes ?? []).map((c) => say.journeys.changedRow(c.key, worded(c.kind), c.table)).join(", ")}
        </p>
      )}
      <ul className="mt-2 text-[12.5px]">
        {parts.map((p, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: the list stays as it is
          <li key={i} className="grid grid-cols-[20px_1fr] border-t border-line py-1">
            <Tick verdict={p.verdict as Verdict} height={14} />
            <span>
              {p.check && <span className="text-soft">{p.check}: </span>}
              {p.words.name}
              {p.verdict !== "as expected" && (
                <span className="block">
                  {p.words.observed || p.words.why}
                  {p.words.expected && (
                    <span className="text-soft">
                      {say.journeys.expected} {p.words.expected}
                    </span>
                  )}
                </span>
              )}
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}
