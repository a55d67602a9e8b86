import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, need } from "../api/client";
import { ValuesForm } from "../form/sources";
import { useSample } from "../form/trace";
import { Trouble, Waiting } from "../parts/notice";
import { Value } from "../parts/value";
import { StepBlock } from "./case";
import { useAt, useFormView } from "./form-frame";

/** One submission by hand: the expectation stands beside it while one types, the difference once it is sent. */
export function TryPage() {
  const f = useFormView();
  const at = useAt();
  const sample = useSample(at, f.brief.revision);
  const [typed, setTyped] = useState<Record<string, string[]>>({});
  const values = { ...(sample.data ?? {}), ...typed } as Record<string, string[]>;
  const body = { values };
  const expected = useQuery({
    queryKey: ["expect", at.site, at.form, f.brief.revision, values],
    enabled: sample.isSuccess,
    placeholderData: (before) => before,
    gcTime: 0,
    queryFn: () => need(api.POST("/api/sites/{site}/forms/{form}/expect", { params: { path: at }, body })),
  });
  const send = useMutation({
    mutationFn: () => need(api.POST("/api/sites/{site}/forms/{form}/try", { params: { path: at }, body })),
  });
  const e = expected.data;
  const got = send.data;
  const promised = f.brief.rules > 0 || (f.stored ?? []).length > 0;
  const messages: Record<string, string> = {};
  for (const m of e?.messages ?? []) if (m.field && !messages[m.field]) messages[m.field] = m.text;
  if (sample.isPending) return <Waiting what="Making values …" />;
  return (
    <main tabIndex={0} className="h-full overflow-auto bg-panel">
      <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-8 px-5 py-3">
        <section aria-label="Values">
          <h2 className="text-[16px]">Try</h2>
          <p className="mb-2 text-soft">
            One submission by hand, over HTTP.{" "}
            <Link className="link" to="../form">
              Back to the form
            </Link>
          </p>
          <form
            onSubmit={(ev) => {
              ev.preventDefault();
              send.mutate();
            }}
            onKeyDown={(ev) => {
              if (ev.ctrlKey && ev.key === "Enter") {
                ev.preventDefault();
                send.mutate();
              }
            }}
          >
            <ValuesForm
              fields={f.fields ?? []}
              values={values}
              messages={promised ? messages : {}}
              said="expected: "
              onChange={(id, list) => setTyped((old) => ({ ...old, [id]: list }))}
            />
            <div className="mt-2 flex gap-2">
              <button type="submit" className="button button-lead" disabled={send.isPending}>
                {send.isPending ? "Sending …" : "Send"}
              </button>
              <span className="self-center text-soft">
                <kbd className="kbd">Ctrl</kbd> <kbd className="kbd">Enter</kbd>
              </span>
              <button
                type="button"
                className="button"
                onClick={() => {
                  setTyped({});
                  sample.refetch();
                }}
              >
                New values
              </button>
            </div>
          </form>
        </section>
        <section aria-label="Expected" aria-live="polite">
          <h2 className="text-[16px]">Expected</h2>
          {!promised && (
            <p className="text-soft">No rule is written yet, so nothing is expected. What comes is shown.</p>
          )}
          {promised && e && (
            <>
              <p>
                <strong>{e.outcome}</strong>. {e.reason}
              </p>
              {e.unsure && e.outcome === "accepted" && (
                <p className="text-soft">Whether a value is taken already is looked up when it is sent.</p>
              )}
              {e.reply && (
                <p className="mt-1">
                  says <Value>{e.reply}</Value>
                </p>
              )}
              {(e.rows ?? []).map((r) => (
                <table key={r.table} className="table mt-2 w-full">
                  <caption className="text-left">
                    a row in <span className="value font-semibold">{r.table}</span>
                  </caption>
                  <tbody>
                    {(r.columns ?? []).map((c) => (
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
          Nothing was submitted: {got.failure}
        </p>
      )}
      {got && !got.failure && (
        <div role="status" className="border-t border-line">
          <h2 className="px-5 pt-3 text-[17px]">{got.promised ? got.judgement.headline : "What came"}</h2>
          <StepBlock step={got} number={1} of={1} />
        </div>
      )}
    </main>
  );
}
