import { useMemo } from "react";
import type { CasesView, Combined, Techniques } from "../../api/cases";
import { Tick, type Verdict } from "../../ui/tick";
import { say } from "../../words";

type Props = {
  data: Techniques;
  cases: CasesView;
  selected: string | null;
  strength: number;
  onSelect: (id: string) => void;
  /** large: compute them although they are many. */
  onStrength: (t: number, large: boolean) => void;
  verdictOf: (id: string) => Verdict;
};

/** For each row, the pairs of factors whose levels no row before it has together. */
export function newPairs(rows: { levels: number[] | null }[]): Set<string>[] {
  const seen = new Set<string>();
  return rows.map((r) => {
    const own = new Set<string>();
    const levels = r.levels ?? [];
    for (let a = 0; a < levels.length; a++)
      for (let b = a + 1; b < levels.length; b++) {
        const pair = `${a}=${levels[a]},${b}=${levels[b]}`;
        if (!seen.has(pair)) {
          seen.add(pair);
          own.add(`${a},${b}`);
        }
      }
    return own;
  });
}

/** Valid values of several fields together: which rows there are, what each adds, and how their number grows. */
export function Combinations({ data, cases, selected, strength, onSelect, onStrength, verdictOf }: Props) {
  const c = data.combined;
  const growth = data.growth;
  const most = Math.max(1, ...growth.map((g) => g.rows ?? 0));
  return (
    <div className="min-h-0 flex-1 overflow-auto bg-panel px-5 py-3">
      <section aria-label={say.cases.howTheSizeGrows}>
        <h2 className="text-[14px]">{say.cases.numberOfTestRows}</h2>
        <ul className="mt-1 max-w-[560px]">
          {growth.map((g) => (
            <li key={g.strength}>
              <button
                type="button"
                className={`grid min-h-6 w-full grid-cols-[minmax(100px,190px)_minmax(0,1fr)_90px] items-center gap-2 px-1 py-0.5 text-left ${g.strength === strength ? "outline-2 outline-focus" : "hover:bg-ground"}`}
                aria-pressed={g.strength === strength}
                disabled={g.rows === undefined && !g.tuples}
                onClick={() => onStrength(g.strength, false)}
              >
                <span>{strengths[g.strength] ?? say.cases.anyFields(g.strength)}</span>
                <span className="h-[9px] border-l border-rule">
                  <span className="block h-full bg-band" style={{ width: `${(100 * (g.rows ?? 0)) / most}%` }} />
                </span>
                <span className="text-right">{g.rows === undefined ? g.why : say.cases.rows(g.rows)}</span>
              </button>
            </li>
          ))}
        </ul>
      </section>
      {!c && <p className="mt-3 text-soft">{say.cases.quickDepthCombinesNoValues}</p>}
      {c?.why && (
        <p className="mt-3 max-w-[70ch]">
          {say.cases.noRows} {c.why}.
        </p>
      )}
      {c?.large && (
        <p className="mt-2">
          <button type="button" className="button" onClick={() => onStrength(c.strength, true)}>
            {say.cases.computeThem}
          </button>{" "}
          <span className="text-soft">{say.cases.itMayTakeAMinute}</span>
        </p>
      )}
      {c && !c.why && <Rows c={c} cases={cases} selected={selected} onSelect={onSelect} verdictOf={verdictOf} />}
    </div>
  );
}

const strengths: Record<number, string> = {
  1: say.cases.eachValueOnce,
  2: say.cases.anyTwoFields,
  3: say.cases.anyThreeFields,
  4: say.cases.anyFourFields,
};

function Rows({
  c,
  cases,
  selected,
  onSelect,
  verdictOf,
}: { c: Combined } & Pick<Props, "cases" | "selected" | "onSelect" | "verdictOf">) {
  const rows = c.rows;
  const factors = c.factors;
  const fresh = useMemo(() => newPairs(rows.map((r) => ({ levels: r.levels }))), [rows]);
  const at = rows.findIndex((r) => r.case === selected);
  const total = c.tuples;
  let sum = 0;
  const running = rows.map((r) => {
    sum += r.new;
    return sum;
  });
  return (
    <>
      <p className="mt-3 text-[12.5px] text-soft">
        {c.tuples} {say.cases.combinationsIn} {rows.length} {say.cases.rowsAtLeast} {c.least}.
        {c.infeasible > 0 && say.cases.moreAreExcludedByRules(c.infeasible)} {say.cases.boldFirstTimeThisPair}
      </p>
      <div tabIndex={0} className="mt-2 overflow-x-auto">
        <table className="border-collapse text-[12.5px]">
          <caption className="sr-only">{say.cases.rowsOfCombinedValues}</caption>
          <thead>
            <tr className="text-left text-[12px] text-soft">
              <th scope="col" className="px-1">
                <span className="sr-only">{say.cases.verdict}</span>
              </th>
              {factors.map((f) => (
                <th
                  key={f.field}
                  scope="col"
                  className="max-w-[110px] truncate px-2 py-1 font-semibold"
                  title={f.label}
                >
                  {f.label}
                </th>
              ))}
              <th scope="col" className="px-2 text-right font-semibold">
                {say.cases.adds}
              </th>
              <th scope="col" className="px-2 text-right font-semibold">
                {say.cases.covered}
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map((r, i) => (
              <tr
                key={r.case ?? r.levels.join()}
                aria-selected={i === at}
                className={`border-t border-line ${i === at ? "bg-ground outline-2 -outline-offset-2 outline-focus" : "hover:bg-ground"}`}
                onClick={() => r.case && onSelect(r.case)}
              >
                <td className="px-1">
                  {r.case && (
                    <button
                      type="button"
                      aria-label={cases.cases[r.case]?.title ?? r.case}
                      className="flex h-6 w-6 items-center justify-center"
                      onClick={() => onSelect(r.case as string)}
                    >
                      <Tick verdict={verdictOf(r.case)} height={16} />
                    </button>
                  )}
                </td>
                {factors.map((f, k) => {
                  const adds = [...(fresh[i] ?? [])].some((p) => p.split(",").includes(String(k)));
                  return (
                    <td
                      key={f.field}
                      className={`value max-w-[110px] truncate px-2 ${c.strength === 2 && !adds ? "text-soft" : ""}`}
                    >
                      {f.levels[r.levels[k] ?? 0]}
                    </td>
                  );
                })}
                <td className="px-2 text-right">{r.new}</td>
                <td className="px-2 text-right text-soft">
                  {total > 0 ? `${Math.floor((100 * (running[i] ?? 0)) / total)} %` : ""}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {at >= 0 && c.strength === 2 && <Pairs c={c} row={at} fresh={fresh[at] ?? new Set()} />}
    </>
  );
}

/** Which pairs the chosen row covers: solid where it is the first that has them. */
function Pairs({ c, row, fresh }: { c: Combined; row: number; fresh: Set<string> }) {
  const factors = c.factors;
  const levels = c.rows[row]?.levels ?? [];
  return (
    <section aria-label={say.cases.pairsOfTheRow} className="mt-4">
      <h2 className="text-[14px]">{say.cases.pairsOfTheChosenRow}</h2>
      <p className="text-[12.5px] text-soft">{say.cases.filledFirstRowWithThis}</p>
      <div tabIndex={0} className="mt-1 overflow-x-auto">
        <table className="border-collapse text-[12px]">
          <caption className="sr-only">{say.cases.pairsOfTheChosenRow}</caption>
          <tbody>
            {factors.slice(1).map((f, b) => (
              <tr key={f.field}>
                <th scope="row" className="max-w-[190px] truncate pr-2 text-right font-normal" title={f.label}>
                  {f.label} <span className="value text-soft">{f.levels[levels[b + 1] ?? 0]}</span>
                </th>
                {factors.slice(0, b + 1).map((g, a) => (
                  <td key={g.field} className="p-0.5">
                    <span
                      title={say.cases.withWord(
                        g.label,
                        g.levels[levels[a] ?? 0],
                        f.label,
                        f.levels[levels[b + 1] ?? 0],
                      )}
                      className={`block h-5 w-[46px] border ${fresh.has(`${a},${b + 1}`) ? "border-edge bg-band" : "border-line"}`}
                    />
                  </td>
                ))}
              </tr>
            ))}
            <tr>
              <td />
              {factors.slice(0, -1).map((g, a) => (
                <th
                  key={g.field}
                  scope="col"
                  className="max-w-[46px] truncate px-0.5 pt-0.5 font-normal"
                  title={g.label}
                >
                  <span className="value text-soft">{g.levels[levels[a] ?? 0]}</span>
                </th>
              ))}
            </tr>
          </tbody>
        </table>
      </div>
    </section>
  );
}
