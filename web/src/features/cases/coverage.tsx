import { type Plan, useCaseEdits, useCoverage, useEditCases } from "../../api/cases";
import type { FormAt, Schemas } from "../../api/client";
import { Trouble, Waiting } from "../../ui/notice";
import { say } from "../../words";
import { withChange } from "./aside";

/** How many missing things of a kind are listed. */
const most = (kind: string) => (kind === "combinations" ? 6 : 30);

type Missing = Schemas["CoverMissing"];

/** How much of what the form promises is put to the test, and the key that adds what is missing. */
export function CoverageView({
  at,
  plan,
  observed,
  ran,
  onObserved,
  onSelect,
}: {
  at: FormAt;
  plan: Plan;
  observed: boolean;
  ran: boolean;
  onObserved: (on: boolean) => void;
  onSelect: (id: string) => void;
}) {
  const coverage = useCoverage(at, plan, observed);
  const edit = useEditCases(at);
  const edits = useCaseEdits(at);
  const add = async (list: Missing[]) => {
    // an edit replaces the one before, so that what it must keep is asked for anew
    const now = await edits.refetch();
    if (!now.data) return;
    const known = new Map(now.data.edits.map((e) => [e.case, e]));
    const ids = [...new Set(list.flatMap((m) => (m.case ? [m.case] : [])))];
    const version = now.data.version;
    edit.mutate({
      from: version,
      edits: ids.flatMap((id) => withChange(id, known.get(id), { skip: "", every_depth: true }) ?? []),
    });
  };
  if (coverage.isPending) return <Waiting what={say.cases.computingTheCoverage} />;
  if (coverage.isError) return <Trouble error={coverage.error} again={() => coverage.refetch()} />;
  const kinds = coverage.data.kinds;
  return (
    <div className="min-h-0 flex-1 overflow-auto bg-panel px-5 py-3">
      <label className="flex w-fit items-center gap-2 text-[12.5px]">
        <input type="checkbox" disabled={!ran} checked={observed} onChange={(e) => onObserved(e.target.checked)} />
        {say.cases.countOnlyWhatTheLatest}
      </label>
      <ul className="mt-2 max-w-[860px]">
        {kinds.map((k) => {
          const missing = k.missing;
          const can = missing.filter((m) => m.case);
          return (
            <li key={k.kind} className="border-t border-line py-1.5">
              <div className="grid grid-cols-[minmax(0,150px)_minmax(0,1fr)_88px] md:grid-cols-[210px_minmax(0,1fr)_110px_150px] items-center gap-3">
                <h2 className="text-[13.5px]">{k.kind}</h2>
                <span className={`h-[12px] border border-rule ${k.covered < k.total ? "hatch" : ""}`}>
                  <span
                    className="block h-full bg-band"
                    style={{ width: `${k.total ? (100 * k.covered) / k.total : 0}%` }}
                  />
                </span>
                <span className="text-right">
                  {k.covered} {say.cases.ofWord} {k.total}
                </span>
                {!observed && can.length > 0 && (
                  <span className="col-span-3 md:col-span-1">
                    <button type="button" className="button" disabled={edit.isPending} onClick={() => add(can)}>
                      {say.cases.add} {can.length === 1 ? say.cases.it : say.cases.all2(can.length)}
                    </button>
                  </span>
                )}
              </div>
              {missing.length > 0 && (
                <ul className="mt-1 pl-4 text-[12.5px]" aria-label={say.cases.missing(k.kind)}>
                  {missing.slice(0, most(k.kind)).map((m) => (
                    <li key={m.id} className="flex items-baseline gap-2 py-0.5">
                      <span className="min-w-0 break-words">{m.words}</span>
                      {m.case && !observed && (
                        <button
                          type="button"
                          className="button shrink-0 py-0"
                          aria-label={say.cases.add2(m.words)}
                          disabled={edit.isPending}
                          onClick={() => add([m])}
                        >
                          {say.cases.add}
                        </button>
                      )}
                      {m.case && (
                        <button type="button" className="link shrink-0" onClick={() => onSelect(m.case as string)}>
                          {say.cases.show}
                        </button>
                      )}
                      {!m.case && (
                        <span className="text-soft">
                          {m.why ? say.cases.cannotBeCovered(m.why) : say.cases.noCaseCoversIt}
                        </span>
                      )}
                    </li>
                  ))}
                  {missing.length > most(k.kind) && (
                    <li className="text-soft">
                      {say.cases.and} {missing.length - most(k.kind)} {say.cases.more}
                    </li>
                  )}
                </ul>
              )}
            </li>
          );
        })}
      </ul>
      {edit.isError && <Trouble error={edit.error} />}
    </div>
  );
}
