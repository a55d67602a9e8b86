import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import { Link, useParams } from "react-router";
import { type AccessView, useAccess, useSweep } from "../../api/beyond";
import type { Schemas } from "../../api/client";
import { Menu } from "../../ui/menu";
import { Trouble, Waiting } from "../../ui/notice";
import { usePageTitle } from "../../ui/page-title";
import { Legend, Tick, type Verdict } from "../../ui/tick";
import { ago, count, moment } from "../../ui/time";
import { inQuery, mayStart, ownAddress, WhereToRun } from "../../ui/where";
import { say, worded } from "../../words";

type Opening = Schemas["Opening"];
type Column = { account: string; state: string; why: string };

const who = (account: string) => account || say.access.aGuest;

/** Who may open what: pages down, visitors across, a tick in each crossing. */
export function AccessPage() {
  const { site = "" } = useParams();
  usePageTitle(say.sites.access, site);
  const [where, setWhere] = useState(ownAddress);
  const access = useAccess(site, inQuery(where));
  const sweep = useSweep(site, inQuery(where));
  const v = access.data;
  const open = v?.report?.openings ?? [];
  const odd =
    open.filter((o) => o.verdict === "odd").length +
    (v?.report?.sessions ?? []).filter((s) => s.verdict === "odd").length;
  return (
    <div className="flex min-h-full flex-col lg:h-full">
      <header className="flex min-h-[75px] shrink-0 flex-wrap items-center justify-between gap-2 py-2 border-b border-line bg-panel px-5">
        <div>
          <h1 className="text-[17px]">
            {v?.title || site}
            {say.access.access}
          </h1>
          <p className="text-[12.5px] text-soft">
            <Link className="link" to="/">
              {say.access.sites}
            </Link>{" "}
            ·{" "}
            <Link className="link" to={`/sites/${site}/journeys`}>
              {say.access.journeys}
            </Link>{" "}
            ·{" "}
            {v?.report ? (
              <span title={moment(v.report.started)}>
                {say.access.checked} {ago(v.report.started)}, {odd > 0 ? say.access.nOdd(odd) : say.access.nothingOdd}
              </span>
            ) : (
              say.access.notCheckedYet
            )}
          </p>
        </div>
        <div className="flex flex-wrap items-center gap-3">
          <WhereToRun where={where} environments={v?.environments} set={setWhere} />
          <button
            type="button"
            className="button button-lead"
            disabled={sweep.isPending || !v || v.states.length === 0 || !mayStart(where, v.environments)}
            onClick={() => sweep.mutate()}
          >
            {sweep.isPending ? say.access.openingEveryPage : say.access.openEveryPageAsEvery}
          </button>
          <Menu />
        </div>
      </header>
      {sweep.isError && (
        <p role="alert" className="border-l-4 border-unseen bg-panel px-4 py-2">
          {sweep.error.message}
        </p>
      )}
      {access.isPending && <Waiting what={say.access.loadingAccess} />}
      {access.isError && <Trouble error={access.error} again={() => access.refetch()} />}
      {v && (v.states.length === 0 || v.pages.length === 0) && (
        <p className="m-5 max-w-[66ch]">{say.access.theSiteDocumentHasNo}</p>
      )}
      {v && v.states.length > 0 && v.pages.length > 0 && <Matrix view={v} />}
      <footer className="shrink-0 border-t border-line bg-panel px-5 py-2">
        <Legend />
      </footer>
    </div>
  );
}

/** The columns: the visitors that were seen, in the order of their states; before that, the states. */
function columnsOf(view: AccessView): Column[] {
  const seen = view.report?.visitors;
  if (!seen) return view.states.map((s) => ({ account: "", state: s.id, why: "" }));
  const order = view.states.map((s) => s.id);
  return seen
    .map((x) => ({ account: x.account, state: x.state ?? "", why: x.why ?? "" }))
    .sort((a, b) => order.indexOf(a.state) - order.indexOf(b.state));
}

function Matrix({ view }: { view: AccessView }) {
  const columns = columnsOf(view);
  const cell = (page: string, c: Column): { opening?: Opening; expected: string; opens: boolean } => {
    const e = view.expected.find((x) => x.page === page && x.state === c.state);
    const opening = view.report?.openings?.find((o) => o.page === page && o.account === c.account);
    return { opening, expected: e?.expected ?? say.access.notKnown, opens: e?.opens ?? false };
  };
  const verdictAt = (r: number, c: number) => {
    const p = view.pages[r];
    const column = columns[c];
    return p && column ? cell(p.id, column).opening?.verdict : undefined;
  };
  const first = view.report?.openings?.find((o) => o.verdict === "odd");
  const [at, setAt] = useState<[number, number]>(() => [
    Math.max(0, first ? view.pages.findIndex((p) => p.id === first.page) : 0),
    Math.max(0, first ? columns.findIndex((c) => c.account === first.account) : 0),
  ]);
  const started = view.report?.started;
  // a new sweep shows its first odd cell
  // biome-ignore lint/correctness/useExhaustiveDependencies: only a new sweep moves the choice
  useEffect(() => {
    if (first) {
      setAt([
        Math.max(
          0,
          view.pages.findIndex((p) => p.id === first.page),
        ),
        Math.max(
          0,
          columns.findIndex((c) => c.account === first.account),
        ),
      ]);
    }
  }, [started]);
  const table = useRef<HTMLTableElement>(null);
  const move = (e: KeyboardEvent) => {
    const step = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[e.key];
    let next: [number, number] | undefined;
    if (step) {
      next = [
        Math.min(view.pages.length - 1, Math.max(0, at[0] + (step[0] ?? 0))),
        Math.min(columns.length - 1, Math.max(0, at[1] + (step[1] ?? 0))),
      ];
    }
    if (e.key === "o") {
      const all = view.pages.flatMap((_, r) => columns.map((_, c) => [r, c] as [number, number]));
      const here = all.findIndex(([r, c]) => r === at[0] && c === at[1]);
      next = [...all.slice(here + 1), ...all.slice(0, here + 1)].find(([r, c]) => verdictAt(r, c) === "odd");
    }
    if (!next) return;
    e.preventDefault();
    setAt(next);
    table.current?.querySelector<HTMLButtonElement>(`[data-at="${next[0]},${next[1]}"]`)?.focus();
  };
  const page = view.pages[at[0]];
  const column = columns[at[1]];
  const picked = page && column ? cell(page.id, column) : undefined;
  return (
    <div className="grid min-h-0 flex-1 grid-cols-1 lg:grid-cols-[1fr_330px]">
      <main tabIndex={0} className="relative min-w-0 overflow-auto px-5 py-4">
        <table ref={table} className="border-collapse" onKeyDown={move}>
          <caption className="sr-only">{say.access.pagesByVisitorArrowKeys}</caption>
          <thead>
            <tr>
              <td />
              {columns.map((c) => (
                <th
                  key={`${c.state}/${c.account}`}
                  scope="col"
                  className="px-2 pb-1 text-left align-bottom font-normal"
                >
                  <span className="block text-[12px] text-soft">
                    {view.states.find((s) => s.id === c.state)?.title ?? say.access.stateNotKnown}
                  </span>
                  <span className="block font-semibold">{view.report ? who(c.account) : ""}</span>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {view.pages.map((p, r) => (
              <tr key={p.id} className="border-t border-line">
                <th scope="row" className="py-0 pr-5 text-left font-normal whitespace-nowrap">
                  <span className="value">{p.path}</span>
                  {p.others && <span className="ml-1 text-[12px] text-soft">{say.access.someoneElses}</span>}
                </th>
                {columns.map((c, k) => {
                  const x = cell(p.id, c);
                  const verdict = (x.opening?.verdict ?? "to come") as Verdict;
                  const here = at[0] === r && at[1] === k;
                  return (
                    <td key={`${c.state}/${c.account}`} className={`p-0 ${x.opens ? "bg-band" : "hatch"}`}>
                      <button
                        type="button"
                        data-at={`${r},${k}`}
                        tabIndex={here ? 0 : -1}
                        aria-pressed={here}
                        aria-label={`${p.path}${p.others ? say.access.someoneElses2 : ""}, ${who(c.account)}: ${x.expected}; ${verdict}`}
                        className={`flex h-[31px] w-full min-w-[88px] items-center justify-center ${here ? "outline-2 -outline-offset-2 outline-ink" : ""} ${verdict === "odd" ? "bg-oddground" : ""}`}
                        onClick={() => setAt([r, k])}
                      >
                        <Tick verdict={verdict} height={20} />
                      </button>
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
        <p className="mt-2 text-[12.5px] text-soft">{say.access.shadedThePageShouldOpen}</p>
        {(view.report?.left_out ?? []).map((l) => (
          <p key={l} className="mt-2 max-w-[860px]">
            {l}
          </p>
        ))}
        <Sessions view={view} />
        <Lacking view={view} />
      </main>
      <aside aria-label={say.access.theChosenCell} className="overflow-auto border-l border-line bg-panel px-4 py-4">
        {picked && page && column && <Cell view={view} column={column} path={page.path} {...picked} />}
      </aside>
    </div>
  );
}

function Cell(props: {
  view: AccessView;
  column: Column;
  path: string;
  opening?: Opening;
  expected: string;
  opens: boolean;
}) {
  const { view, column, opening } = props;
  const state = view.states.find((s) => s.id === column.state);
  const visitor = view.report?.visitors?.find((x) => x.account === column.account);
  return (
    <>
      <h2 className="text-[15px]">
        <span className="value">{opening?.path ?? props.path}</span>
        {say.access.forWord} {who(column.account)}
      </h2>
      <dl className="mt-3 grid grid-cols-[84px_1fr] gap-x-3 gap-y-1">
        <dt className="text-soft">{say.access.expected}</dt>
        <dd>{opening?.expected ?? props.expected}</dd>
        <dt className="text-soft">{say.access.observed}</dt>
        <dd className={opening?.verdict === "odd" ? "font-semibold text-odd" : ""}>
          {opening?.observed || (opening ? worded("not observed") : say.access.notOpenedYet)}
        </dd>
        {opening?.why && (
          <>
            <dt className="text-soft">{say.access.why}</dt>
            <dd>{opening.why}</dd>
          </>
        )}
      </dl>
      <h3 className="mt-5 text-[13.5px]">{state ? say.access.state(state.title) : say.access.stateNotKnown2}</h3>
      {state?.holds && <p className="value mt-1">{state.holds}</p>}
      {column.why && <p className="mt-1 text-unseen">{column.why}</p>}
      {visitor?.true && (
        <ul className="mt-2" aria-label={say.access.whatIsStoredAbout(who(column.account))}>
          {(view.report?.conditions ?? []).map((c, i) => (
            <li key={c} className="grid grid-cols-[34px_1fr] border-t border-line py-0.5">
              <span className={visitor.true?.[i] ? "font-semibold" : "text-soft"}>
                {visitor.true?.[i] ? say.access.yes : say.access.no}
              </span>
              <span className="value">{c}</span>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}

function Sessions({ view }: { view: AccessView }) {
  const rank = (verdict: string) => ["odd", "not observed"].indexOf(verdict) + 1 || 3;
  const list = [...(view.report?.sessions ?? [])].sort((a, b) => rank(a.verdict) - rank(b.verdict));
  if (list.length === 0) return null;
  return (
    <section aria-label={say.access.menusAndSessions} className="mt-6 max-w-[860px]">
      <h2 className="text-[15px]">{say.access.menusAndSessions}</h2>
      <ul className="mt-1">
        {list.map((s, i) => (
          <li
            // biome-ignore lint/suspicious/noArrayIndexKey: the list stays as it is
            key={i}
            className="grid grid-cols-[24px_minmax(0,2fr)_minmax(0,3fr)] items-center border-t border-line py-1"
          >
            <Tick verdict={s.verdict as Verdict} height={16} />
            <span>
              {s.what}
              {say.access.ofWord} {who(s.account)}
            </span>
            <span className={s.verdict === "odd" ? "font-semibold text-odd" : "text-soft"}>
              {s.verdict === "as expected"
                ? s.observed
                : say.access.expected2(s.observed || worded("not observed"), s.expected, s.why ? ` (${s.why})` : "")}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Lacking({ view }: { view: AccessView }) {
  const list = view.report?.lacking ?? [];
  if (!view.report) return null;
  return (
    <section aria-label={say.access.differencesTheseAccountsCannotReveal} className="mt-6 max-w-[860px]">
      <h2 className="text-[15px]">{say.access.differencesTheseAccountsCannotReveal}</h2>
      {list.length === 0 ? (
        <p className="text-soft">{say.access.noneTheseAccountsWouldReveal}</p>
      ) : (
        <ul>
          <li className="text-soft">
            {count(list.length, say.access.slip, say.access.slips)} {say.access.inAStatesConditionWould}
          </li>
          {list.map((l) => (
            <li key={l} className="border-t border-line py-1">
              {l}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
