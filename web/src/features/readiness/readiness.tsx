import { Link, useParams } from "react-router";
import { type PartReadiness, type SiteReadiness, useReadiness } from "../../api/readiness";
import { Menu } from "../../ui/menu";
import { Trouble, Waiting } from "../../ui/notice";
import { usePageTitle } from "../../ui/page-title";
import { partLink, readyMark } from "../../ui/readiness";
import { RunWholeSite } from "../../ui/site-run";
import { Legend, Tick } from "../../ui/tick";
import { ago, count, moment } from "../../ui/time";
import { Trend } from "../../ui/trend";
import { say, worded } from "../../words";
import { asked } from "./asked";

/** May it ship? The verdict on all sites, a site or a form, with what stands in the way, gravest first. */
export function ReadinessPage() {
  const { site = "", form = "" } = useParams();
  const view = useReadiness(site, form);
  const one = site ? view.data?.sites[0] : undefined;
  const about = form ? one?.parts[0]?.title : one?.title;
  usePageTitle(say.readiness.mayItShip, about);
  return (
    <div className="flex min-h-full flex-col">
      {!form && (
        <header className="flex min-h-[75px] flex-wrap items-center justify-between gap-3 border-b border-line bg-panel px-5 py-2">
          <div>
            <h1 className="text-[17px]">{about ? say.readiness.mayShip(about) : say.readiness.mayItShip}</h1>
            <p className="text-[12.5px] text-soft">
              <Link className="link" to="/">
                {say.readiness.sites}
              </Link>
              {site && (
                <>
                  {" · "}
                  <Link className="link" to="/may-it-ship">
                    {say.readiness.allSites}
                  </Link>
                </>
              )}
            </p>
          </div>
          <Menu />
        </header>
      )}
      <main className="flex-1 pb-8">
        {view.isPending && <Waiting what={say.readiness.loading} />}
        {view.isError && <Trouble error={view.error} again={() => view.refetch()} />}
        {view.data && (
          <p className="flex items-center gap-3 border-b border-line bg-panel px-5 py-5 text-[22px] leading-tight">
            <Tick verdict={readyMark(view.data.verdict.state)} height={30} />
            <span
              className={`inline-block font-semibold first-letter:uppercase ${view.data.verdict.state === "not_ready" ? "text-odd" : ""}`}
            >
              {view.data.verdict.headline}
            </span>
          </p>
        )}
        {view.data?.sites.length === 0 && <p className="m-5">{say.sites.thereAreNoSitesYet}</p>}
        {view.data?.sites.map((s) => (
          <SiteBlock key={s.id} site={s} alone={site !== ""} form={form !== ""} />
        ))}
      </main>
      <footer className="border-t border-line px-5 py-3">
        <Legend />
      </footer>
    </div>
  );
}

function SiteBlock({ site, alone, form }: { site: SiteReadiness; alone: boolean; form: boolean }) {
  return (
    <section aria-label={site.title} className="border-b border-line">
      {!form && (
        <div className="flex flex-wrap items-baseline justify-between gap-x-4 gap-y-2 px-5 pt-4 pb-2">
          <div>
            <h2 className="text-[15px]">
              {alone ? site.title : <Link to={`/sites/${site.id}/may-it-ship`}>{site.title}</Link>}
            </h2>
            {!alone && <p className="text-soft first-letter:uppercase">{site.verdict.headline}</p>}
          </div>
          <RunWholeSite site={site.id} title={site.title} />
        </div>
      )}
      <p className="max-w-[90ch] px-5 py-2 text-[12.5px] text-soft">
        {say.readiness.whatCounts} {asked(site.asked)}{" "}
        <Link className="link" to={`/sites/${site.id}/document#ready_when`}>
          {say.readiness.changeWhatCounts}
        </Link>
      </p>
      {byWeight(site.parts).map((p) => (
        <Part key={`${p.kind} ${p.id}`} site={site.id} part={p} open={form} />
      ))}
    </section>
  );
}

const weights = { not_ready: 0, not_known: 1, ready: 2 };

/** What stands in the way first, and each kind in the site's order. */
const byWeight = (parts: PartReadiness[]) =>
  [...parts].sort((a, b) => weights[a.verdict.state] - weights[b.verdict.state]);

function Part({ site, part, open }: { site: string; part: PartReadiness; open: boolean }) {
  const title = part.kind === "access" ? say.sites.access : part.title;
  // alone, a part stands right below the page's heading
  const Heading = open ? "h2" : "h3";
  const Below = open ? "h3" : "h4";
  const standing = part.findings.filter((f) => !f.accepted);
  const accepted = part.findings.filter((f) => f.accepted);
  const findings = `/sites/${site}/forms/${part.id}/findings`;
  return (
    <article
      aria-label={title}
      className="grid gap-x-6 gap-y-2 border-t border-line bg-panel px-5 py-3 md:grid-cols-[230px_minmax(0,1fr)_240px]"
    >
      <div className="flex gap-2">
        <Tick verdict={readyMark(part.verdict.state)} height={22} />
        <div>
          <Heading className="text-[14px]">
            <Link className="link" to={partLink(site, part)}>
              {title}
            </Link>
          </Heading>
          <p className="text-[12px] text-soft">
            {part.kind === "access" ? say.sites.whoMayOpenWhat : worded(part.kind)}
          </p>
        </div>
      </div>
      <div className="min-w-0">
        {!open && (
          <p className={`first-letter:uppercase ${part.verdict.state === "not_ready" ? "font-semibold text-odd" : ""}`}>
            {part.verdict.headline}
          </p>
        )}
        {standing.length > 0 && (
          <ul className="mt-1">
            {(open ? standing : standing.slice(0, 5)).map((f) => (
              <li key={f.id} className="flex gap-2 py-0.5 text-[13px]">
                <span className="w-[62px] shrink-0 text-soft">{worded(f.severity)}</span>
                <Link className="link" to={`${findings}?finding=${f.id}`}>
                  {f.headline}
                </Link>
              </li>
            ))}
          </ul>
        )}
        {!open && standing.length > 5 && (
          <Link className="link text-[12.5px]" to={findings}>
            {say.readiness.moreFindings(standing.length - 5)}
          </Link>
        )}
        {accepted.length > 0 && (
          <>
            <Below className="mt-2 text-[12.5px] font-semibold">{say.readiness.acceptedForNow}</Below>
            <ul>
              {accepted.map((f) => (
                <li key={f.id} className="py-0.5 text-[13px] text-soft">
                  {f.headline}
                  {f.until ? `, ${say.readiness.until(f.until)}` : ""}
                  {f.comment ? `: ${f.comment}` : ""}
                </li>
              ))}
            </ul>
          </>
        )}
        {part.requirements.length > 0 && <Requirements part={part} findings={findings} />}
        {part.coverage && open && <NotTested part={part} />}
      </div>
      <div className="text-[12.5px] text-soft md:text-right">
        {part.at && (
          <p title={moment(part.at)}>
            {part.run ? `${say.readiness.run(part.run)}, ` : ""}
            {ago(part.at)}
          </p>
        )}
        {part.run ? (
          <p>
            {say.readiness.revision(part.ran ?? 0)}
            {part.ran !== part.newest && `, ${say.readiness.newestIs(part.newest ?? 0)}`}
            {part.depth && `, ${say.readiness.depth(worded(part.depth))}`}
          </p>
        ) : null}
        <p>
          {part.kind === "form"
            ? count(part.tally.total, say.sites.caseWord, say.sites.cases)
            : part.tally.total > 0 && say.readiness.checks(part.tally.total)}
        </p>
        {part.trend.length > 1 && (
          <figure className="mt-1 inline-block">
            <Trend runs={part.trend} />
            <figcaption className="text-[11.5px]">{say.readiness.findingsPerRun(part.trend.length)}</figcaption>
          </figure>
        )}
      </div>
    </article>
  );
}

/** What became of each requirement that the rules come from. */
function Requirements({ part, findings }: { part: PartReadiness; findings: string }) {
  return (
    <table className="table mt-3 w-full">
      <caption className="text-left text-[12.5px] font-semibold">{say.readiness.requirements}</caption>
      <thead>
        <tr>
          <th scope="col">{say.readiness.requirement}</th>
          <th scope="col">{say.readiness.state}</th>
          <th scope="col">{say.readiness.rules}</th>
          <th scope="col">{say.readiness.casesObserved}</th>
          <th scope="col">{say.readiness.findings}</th>
        </tr>
      </thead>
      <tbody>
        {part.requirements.map((r) => (
          <tr key={r.id}>
            <td>
              {r.link ? (
                <a className="link" href={r.link} rel="noreferrer" target="_blank">
                  {r.id}
                </a>
              ) : (
                r.id
              )}
            </td>
            <td className={r.state === "odd" ? "text-odd" : r.state === "as_expected" ? "" : "text-unseen"}>
              {worded(r.state)}
            </td>
            <td className="value">{r.rules.join(", ")}</td>
            <td>{say.readiness.ofTotal(r.observed, r.cases)}</td>
            <td>
              {r.findings.map((id, i) => (
                <Link key={id} className="link block" to={`${findings}?finding=${id}`}>
                  {r.headlines[i]}
                </Link>
              ))}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What of all that the form promises no observed case has shown. */
function NotTested({ part }: { part: PartReadiness }) {
  const kinds = (part.coverage ?? []).filter((c) => c.observed < c.total);
  return (
    <section className="mt-3">
      <h3 className="text-[12.5px] font-semibold">{say.readiness.notTested}</h3>
      {kinds.length === 0 && <p>{say.readiness.everythingWasShown}</p>}
      {kinds.map((c) => (
        <details key={c.kind} className="py-0.5 text-[13px]">
          <summary>
            {worded(c.kind)}: {say.readiness.ofTotal(c.observed, c.total)}
          </summary>
          <ul className="ml-5 list-disc">
            {[...(c.not_observed ?? []), ...(c.not_covered ?? [])].map((w) => (
              <li key={w}>{w}</li>
            ))}
          </ul>
        </details>
      ))}
    </section>
  );
}
