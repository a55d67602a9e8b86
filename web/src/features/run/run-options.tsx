import { Popover } from "radix-ui";
import { useState } from "react";
import { type Depth, depths, type Plan, usualPlan } from "../../api/cases";
import type { FormAt, Schemas } from "../../api/client";
import { type RunChoices, useRunPreview } from "../../api/queries";
import { count } from "../../ui/time";
import { EnvironmentSelect } from "../../ui/where";
import { say, worded } from "../../words";

type Preview = Schemas["RunPreview"];

/** Which cases a run is made of, and how it is made. */
export function RunOptions({
  at,
  rows,
  depth,
  start,
}: {
  at: FormAt;
  rows: { id: string; label: string }[];
  depth: Depth;
  start: (plan: Plan, choices: RunChoices) => void;
}) {
  const [open, setOpen] = useState(false);
  const [plan, setPlan] = useState<Plan>({ ...usualPlan, depth });
  const [choices, setChoices] = useState<RunChoices>({});
  const preview = useRunPreview(at, { plan, ...choices }, open);
  const set = (more: Partial<RunChoices>) => setChoices((old) => ({ ...old, ...more }));
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger className="button shrink-0">{say.run.runWithOptions}</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={4}
          aria-label={say.run.whatToRun}
          className="z-30 w-[380px] border border-ink bg-panel p-4 text-[13px]"
        >
          <form
            onSubmit={(e) => {
              e.preventDefault();
              setOpen(false);
              start(plan, choices);
            }}
            className="grid grid-cols-[110px_minmax(0,1fr)] items-center gap-x-3 gap-y-2"
          >
            {preview.data && preview.data.environments.length > 0 && (
              <>
                <label htmlFor="run-environment">{say.run.environment}</label>
                <EnvironmentSelect
                  id="run-environment"
                  chosen={choices.environment ?? ""}
                  environments={preview.data.environments}
                  choose={(id) => set({ environment: id || undefined, confirmed: undefined })}
                />
              </>
            )}
            <label htmlFor="run-depth">{say.run.depth}</label>
            <select
              id="run-depth"
              className="button"
              value={plan.depth}
              onChange={(e) => setPlan({ ...plan, depth: e.target.value as Depth })}
            >
              {depths.map((d) => (
                <option key={d} value={d}>
                  {worded(d)}
                </option>
              ))}
            </select>
            <label htmlFor="run-only">{say.run.cases}</label>
            <select
              id="run-only"
              className="button"
              value={choices.only ?? ""}
              onChange={(e) => set({ only: (e.target.value || undefined) as RunChoices["only"] })}
            >
              <option value="">{say.run.all}</option>
              <option value="odd">{say.run.oddInTheLatestRun}</option>
              <option value="not_observed">{say.run.notObservedInTheLatest}</option>
              <option value="new">{say.run.neverRunBefore}</option>
            </select>
            <label htmlFor="run-driver">{say.run.driver}</label>
            <select
              id="run-driver"
              className="button"
              value={choices.by_hand ? "hand" : (choices.driver ?? "")}
              onChange={(e) => {
                const hand = e.target.value === "hand";
                set({
                  by_hand: hand || undefined,
                  driver: hand ? undefined : ((e.target.value || undefined) as RunChoices["driver"]),
                });
              }}
            >
              <option value="">{say.run.both}</option>
              <option value="http">{say.run.overHttpOnly}</option>
              <option value="browser">{say.run.inTheBrowserOnly}</option>
              <option value="hand">{say.run.byHandAPersonSubmits}</option>
            </select>
            <label htmlFor="run-row">{say.run.field}</label>
            <select
              id="run-row"
              className="button"
              value={choices.rows?.[0] ?? ""}
              onChange={(e) => set({ rows: e.target.value ? [e.target.value] : undefined })}
            >
              <option value="">{say.run.all}</option>
              {rows.map((r) => (
                <option key={r.id} value={r.id}>
                  {r.label}
                </option>
              ))}
            </select>
            <label htmlFor="run-parallel">{say.run.inParallel}</label>
            <input
              id="run-parallel"
              className="field"
              type="number"
              min={1}
              max={32}
              placeholder={say.run.asSetForTheSite}
              value={choices.parallel ?? ""}
              onChange={(e) => set({ parallel: e.target.value ? Number(e.target.value) : undefined })}
            />
            <label htmlFor="run-pace">{say.run.casesPerMinute}</label>
            <input
              id="run-pace"
              className="field"
              type="number"
              min={1}
              max={60000}
              step="any"
              placeholder={say.run.noLimit}
              value={choices.max_per_minute ?? ""}
              onChange={(e) => set({ max_per_minute: e.target.value ? Number(e.target.value) : undefined })}
            />
            <span />
            <label className="flex items-center gap-1.5">
              <input
                type="checkbox"
                checked={choices.stop_at_odd ?? false}
                onChange={(e) => set({ stop_at_odd: e.target.checked || undefined })}
              />
              {say.run.stopAtTheFirstOdd}
            </label>
            <span />
            <label className="flex items-center gap-1.5" title={say.run.needsTheRightsToInsert}>
              <input
                type="checkbox"
                checked={choices.clean_up ?? false}
                onChange={(e) => set({ clean_up: e.target.checked || undefined })}
              />
              {say.run.deleteRowsWrittenByThis}
            </label>
            {preview.data?.confirm && (
              <>
                <label htmlFor="run-confirmed">{say.run.protectedTypeIts}</label>
                <input
                  id="run-confirmed"
                  className="field value"
                  autoComplete="off"
                  required
                  pattern={choices.environment}
                  placeholder={choices.environment}
                  value={choices.confirmed ?? ""}
                  onChange={(e) => set({ confirmed: e.target.value })}
                />
              </>
            )}
            <div className="col-span-2 border-t border-line pt-2" role="status">
              {preview.isError ? (
                <p className="text-odd">{preview.error.message}</p>
              ) : (
                preview.data && <WillDo preview={preview.data} byHand={choices.by_hand ?? false} />
              )}
            </div>
            <span />
            <button
              type="submit"
              className="button button-lead justify-self-start"
              disabled={preview.isError || (preview.data?.confirm && choices.confirmed !== choices.environment)}
            >
              {say.run.run}
            </button>
          </form>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** What the run will do, and what it will write. */
function WillDo({ preview: p, byHand }: { preview: Preview; byHand: boolean }) {
  const w = say.run;
  const rows = (n: number) => count(n, w.row, w.rows);
  const writes = p.writes.filter((t) => t.inserted + t.changed > 0);
  return (
    <>
      <p>
        {byHand
          ? w.aPersonSubmits(count(p.cases, w.caseWord, w.cases2))
          : w.itSubmits(count(p.cases, w.caseWord, w.cases2))}{" "}
        <span className="value break-all">{p.address}</span>
        {p.account && w.signedInAs(p.account)}.{p.left > 0 && ` ${w.leavesOut(count(p.left, w.caseWord, w.cases2))}`}
      </p>
      {p.writes_never && <p className="text-soft">{w.onlyCasesThatWriteNothing}</p>}
      {writes.length === 0 && <p>{w.nothingShouldBeWritten}</p>}
      {writes.map((t) => (
        <p key={t.table}>
          {w.atMost}{" "}
          {[t.inserted > 0 && w.inserted(rows(t.inserted)), t.changed > 0 && w.changed(rows(t.changed))]
            .filter(Boolean)
            .join(", ")}{" "}
          {w.inTable} <span className="value">{t.table}</span>
        </p>
      ))}
    </>
  );
}
