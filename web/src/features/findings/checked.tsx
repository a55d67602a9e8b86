import { Link } from "react-router";
import { type Depth, useCoverage, usualPlan } from "../../api/cases";
import type { FormAt } from "../../api/client";
import { useRun } from "../../api/queries";
import { checks } from "../../api/words.gen";
import { moment } from "../../ui/time";
import { say } from "../../words";

/** What a run has checked that found nothing odd: by whom and when, each check's verdicts, and what of the promises was shown. */
export function Checked({ at, run, newest }: { at: FormAt; run: number; newest: boolean }) {
  const read = useRun(at, run);
  if (!read.data) return null;
  const { run: r, marks } = read.data;
  const letters = (i: number, letter: string) => marks.filter((m) => m.checks[i] === letter).length;
  const w = say.findings;
  return (
    <div className="max-w-3xl">
      <h2 className="text-[18px]">{w.whatRunChecked(r.number)}</h2>
      <p className="mt-1">
        {w.ranBy(r.done, r.total, r.started_by, moment(r.started_at))} {w.depthAndRevision(r.depth, r.revision)}
      </p>
      <table className="table mt-4 w-full">
        <caption className="sr-only">{w.verdictsByCheck}</caption>
        <thead>
          <tr>
            <th scope="col">{say.findings.check2}</th>
            <th scope="col">{w.asExpected}</th>
            <th scope="col">{w.notObserved2}</th>
            <th scope="col">{w.notApplicable}</th>
          </tr>
        </thead>
        <tbody>
          {checks.map((c, i) => (
            <tr key={c.check}>
              <th scope="row">{c.name}</th>
              <td>{letters(i, "e")}</td>
              <td>{letters(i, "n")}</td>
              <td>{letters(i, "-")}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {newest && <Shown at={at} depth={r.depth as Depth} />}
      <p className="mt-4 flex flex-wrap gap-3">
        <Link className="button" to={`/sites/${at.site}/forms/${at.form}/may-it-ship`}>
          {say.readiness.mayItShip}
        </Link>
        <Link className="button" to={`/sites/${at.site}/forms/${at.form}/run?run=${r.number}`}>
          {w.seeTheRun}
        </Link>
        {r.depth !== "thorough" && (
          <Link className="button" to={`/sites/${at.site}/forms/${at.form}/cases?depth=thorough`}>
            {w.moreThoroughly}
          </Link>
        )}
      </p>
    </div>
  );
}

/** How much of what the form promises the newest run has shown. */
function Shown({ at, depth }: { at: FormAt; depth: Depth }) {
  const coverage = useCoverage(at, { ...usualPlan, depth }, true);
  if (!coverage.data) return null;
  return (
    <>
      <h3 className="mt-5 text-[14px]">{say.findings.promisesShown}</h3>
      <ul className="mt-1">
        {coverage.data.kinds.map((k) => (
          <li
            key={k.kind}
            className="grid grid-cols-[minmax(0,1fr)_110px] items-center gap-x-3 border-t border-line py-1 md:grid-cols-[210px_minmax(0,1fr)_110px]"
          >
            <span>{k.kind}</span>
            <span
              className={`h-[12px] border border-rule max-md:order-last max-md:col-span-2 ${k.covered < k.total ? "hatch" : ""}`}
            >
              <span
                className="block h-full bg-band"
                style={{ width: `${k.total ? (100 * k.covered) / k.total : 0}%` }}
              />
            </span>
            <span className="text-right">{say.findings.ofPromises(k.covered, k.total)}</span>
          </li>
        ))}
      </ul>
    </>
  );
}
