import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import type { FormAt } from "../../api/client";
import { api, need } from "../../api/client";
import { useFormAddress, useFormView } from "../../editing/form-view";
import { useSample } from "../../editing/sample";
import { ValuesForm } from "../../editing/values-form";
import { StepBlock } from "../../evidence/step-block";
import { Trouble, Waiting } from "../../ui/notice";
import { Value } from "../../ui/value";
import { inQuery, maySubmit, ownAddress, WhereToRun } from "../../ui/where";
import { say, worded } from "../../words";

/** One submission by hand: the expectation stands beside it while one types, the difference once it is sent. */
export function TryPage() {
  const f = useFormView();
  const at = useFormAddress();
  const sample = useSample(at, f.brief.revision);
  const [typed, setTyped] = useState<Record<string, string[]>>({});
  const values = { ...(sample.data ?? {}), ...typed } as Record<string, string[]>;
  const [driver, setDriver] = useState<"http" | "browser">("http");
  const [unchecked, setUnchecked] = useState(false);
  const [where, setWhere] = useState(ownAddress);
  const body = { values, driver, unchecked: driver === "browser" && unchecked };
  const expected = useQuery({
    queryKey: ["expect", at.site, at.form, f.brief.revision, values, driver, body.unchecked],
    enabled: sample.isSuccess,
    placeholderData: (before) => before,
    gcTime: 0,
    queryFn: () => need(api.POST("/api/sites/{site}/forms/{form}/expect", { params: { path: at }, body })),
  });
  const send = useMutation({
    mutationFn: () =>
      need(api.POST("/api/sites/{site}/forms/{form}/try", { params: { path: at, query: inQuery(where) }, body })),
  });
  const e = expected.data;
  const got = send.data;
  const promised = f.brief.rules > 0 || f.stored.length > 0;
  const messages: Record<string, string> = {};
  for (const m of e?.messages ?? []) if (m.field && !messages[m.field]) messages[m.field] = m.text;
  if (sample.isPending) return <Waiting what={say.try.generatingValues} />;
  return (
    <main tabIndex={0} className="overflow-auto bg-panel lg:h-full">
      <div className="grid grid-cols-1 md:grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-8 px-5 py-3">
        <section aria-label={say.try.values}>
          <h2 className="text-[16px]">{say.try.try}</h2>
          <p className="mb-2 text-soft">
            {say.try.sendOneSubmissionAndSee}{" "}
            <Link className="link" to="../form">
              {say.try.backToTheForm}
            </Link>
          </p>
          <form
            onSubmit={(ev) => {
              ev.preventDefault();
              if (!send.isPending && maySubmit(where, f.environments)) send.mutate();
            }}
            onKeyDown={(ev) => {
              if (ev.ctrlKey && ev.key === "Enter") {
                ev.preventDefault();
                ev.currentTarget.requestSubmit();
              }
            }}
          >
            <ValuesForm
              fields={f.fields}
              values={values}
              messages={promised ? messages : {}}
              said={say.try.expected}
              onChange={(id, list) => setTyped((old) => ({ ...old, [id]: list }))}
            />
            <div className="mt-2 flex flex-wrap items-center gap-2">
              <label>
                <span className="sr-only">{say.try.driver}</span>
                <select
                  className="button"
                  value={driver}
                  onChange={(ev) => setDriver(ev.target.value === "browser" ? "browser" : "http")}
                >
                  <option value="http">{say.try.overHttp}</option>
                  <option value="browser">{say.try.inTheBrowser}</option>
                </select>
              </label>
              {driver === "browser" && (
                <label className="flex items-center gap-1">
                  <input type="checkbox" checked={unchecked} onChange={(ev) => setUnchecked(ev.target.checked)} />
                  {say.try.browsersChecksSwitchedOff}
                </label>
              )}
              <WhereToRun where={where} environments={f.environments} set={setWhere} />
              <button
                type="submit"
                className="button button-lead"
                disabled={send.isPending || !maySubmit(where, f.environments)}
              >
                {send.isPending ? say.try.sending : say.try.send}
              </button>
              <span className="self-center text-soft">
                <kbd className="kbd">{say.try.ctrl}</kbd> <kbd className="kbd">{say.try.enter}</kbd>
              </span>
              <button
                type="button"
                className="button"
                onClick={() => {
                  setTyped({});
                  sample.refetch();
                }}
              >
                {say.try.newValues}
              </button>
            </div>
          </form>
        </section>
        <section aria-label={say.try.expected2} aria-live="polite">
          <h2 className="text-[16px]">{say.try.expected2}</h2>
          {!promised && <p className="text-soft">{say.try.thereAreNoRulesYet}</p>}
          {promised && e && (
            <>
              <p>
                <strong>{worded(e.outcome)}</strong>. {e.reason}
              </p>
              {e.unsure && e.outcome === "accepted" && (
                <p className="text-soft">{say.try.whetherAValueAlreadyExists}</p>
              )}
              {e.reply && (
                <p className="mt-1">
                  {say.try.message} <Value>{e.reply}</Value>
                </p>
              )}
              {e.rows.map((r) => (
                <table key={r.table} className="table mt-2 w-full">
                  <caption className="text-left">
                    {say.try.aRowIn} <span className="value font-semibold">{r.table}</span>
                  </caption>
                  <tbody>
                    {r.columns.map((c) => (
                      <tr key={c.name}>
                        <td className="value w-[160px]">{c.name}</td>
                        <td>
                          <Value>{c.value}</Value>
                        </td>
                      </tr>
                    ))}
                  </tbody>
                </table>
              ))}
            </>
          )}
          {expected.isError && <Trouble error={expected.error} />}
        </section>
      </div>
      {send.isError && <Trouble error={send.error} />}
      {got?.failure && (
        <p role="status" className="mx-5 border-l-4 border-unseen pl-3">
          {say.try.nothingWasSubmitted} {got.failure}
        </p>
      )}
      {got && !got.failure && (
        <div role="status" className="border-t border-line">
          <div className="flex items-center justify-between gap-4 px-5 pt-3">
            <h2 className="text-[17px]">{got.promised ? got.judgement.headline : say.try.result}</h2>
            <KeepAsCase at={at} values={values} driver={driver} headline={got.judgement.headline} />
          </div>
          <StepBlock
            step={got}
            number={1}
            of={1}
            picture={got.picture ? `data:image/jpeg;base64,${got.picture}` : undefined}
          />
        </div>
      )}
    </main>
  );
}

/** Keeps what was tried as a case of the form, under a name that can be changed. */
function KeepAsCase({
  at,
  values,
  driver,
  headline,
}: {
  at: FormAt;
  values: Record<string, string[]>;
  driver: string;
  headline: string;
}) {
  const cache = useQueryClient();
  const [title, setTitle] = useState<string | null>(null);
  const keep = useMutation({
    mutationFn: (name: string) => {
      const inputs: Record<string, string> = {};
      const absent: string[] = [];
      for (const [field, list] of Object.entries(values)) {
        if (list.length === 0) absent.push(field);
        else inputs[field] = list.join("\n");
      }
      const id = `${at.form}/own.tried_${Date.now().toString(36)}/${driver}`;
      const edit = { case: id, added: true, driver, title: name, inputs, absent };
      return need(
        api.POST("/api/sites/{site}/forms/{form}/case-edits", {
          params: { path: at, header: { "If-Match": '"0"' } }, // a case that is not there yet
          body: { edits: [edit] },
        }),
      ).then(() => id);
    },
    onSuccess: () => cache.invalidateQueries({ queryKey: ["cases"] }),
  });
  if (keep.data)
    return (
      <Link className="link" to={`../case?id=${encodeURIComponent(keep.data)}`}>
        {say.try.savedAsACase}
      </Link>
    );
  if (title === null)
    return (
      <button type="button" className="button" onClick={() => setTitle(headline)}>
        {say.try.saveAsACase}
      </button>
    );
  return (
    <form
      className="flex items-center gap-2"
      onSubmit={(ev) => {
        ev.preventDefault();
        keep.mutate(title);
      }}
    >
      <label>
        <span className="sr-only">{say.try.title}</span>
        <input
          ref={(field) => field?.focus()}
          className="field w-[320px]"
          required
          value={title}
          onChange={(ev) => setTitle(ev.target.value)}
        />
      </label>
      <button type="submit" className="button button-lead" disabled={keep.isPending}>
        {say.try.save}
      </button>
      {keep.isError && <span role="alert">{keep.error.message}</span>}
    </form>
  );
}
