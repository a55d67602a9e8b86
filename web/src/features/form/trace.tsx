import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import type { FormAt } from "../../api/client";
import { api, need } from "../../api/client";
import type { FormView } from "../../editing/form-view";
import { useSample } from "../../editing/sample";
import { SeenMessages } from "../../editing/seen-messages";
import { ValuesForm } from "../../editing/values-form";
import { Trouble } from "../../ui/notice";
import { Value } from "../../ui/value";
import { inQuery, maySubmit, ownAddress, WhereToRun } from "../../ui/where";
import { say } from "../../words";
import { Proposals } from "./proposals";

/** One submission with marked values: where each of them ends up, and what the site says for blank and wrong ones. */
export function Trace({ at, form, onDone }: { at: FormAt; form: FormView; onDone: () => void }) {
  const { fields, environments } = form;
  const sample = useSample(at, form.brief.revision);
  const [where, setWhere] = useState(ownAddress);
  const [typed, setTyped] = useState<Record<string, string[]>>({});
  const values = { ...(sample.data ?? {}), ...typed } as Record<string, string[]>;
  const send = useMutation({
    mutationFn: () =>
      need(
        api.POST("/api/sites/{site}/forms/{form}/trace", {
          params: { path: at, query: inQuery(where) },
          body: { values },
        }),
      ),
  });
  const got = send.data;
  const messages: Record<string, string> = {};
  for (const m of got?.messages ?? []) if (m.field && !messages[m.field]) messages[m.field] = m.text;
  const loose = (got?.messages ?? []).filter((m) => !m.field);
  return (
    <section aria-label={say.form.trace}>
      <h2 className="text-[15px]">{say.form.trace}</h2>
      <p className="mt-1 text-soft">{say.form.enterValuesThatTheSite}</p>
      <form
        className="mt-2"
        onSubmit={(e) => {
          e.preventDefault();
          if (!send.isPending && maySubmit(where, environments)) send.mutate();
        }}
        onKeyDown={(e) => {
          if (e.ctrlKey && e.key === "Enter") e.currentTarget.requestSubmit();
        }}
      >
        <ValuesForm
          fields={fields}
          values={values}
          messages={messages}
          onChange={(id, list) => setTyped((old) => ({ ...old, [id]: list }))}
        />
        <div className="mt-2 flex flex-wrap items-center gap-2">
          <WhereToRun where={where} environments={environments} set={setWhere} />
          <button type="submit" className="button" disabled={send.isPending || !maySubmit(where, environments)}>
            {send.isPending ? say.form.tracing : say.form.traceTheseValues} <kbd className="kbd">{say.form.ctrl}</kbd>{" "}
            <kbd className="kbd">{say.form.enter}</kbd>
          </button>
        </div>
      </form>
      {send.isError && <Trouble error={send.error} />}
      {got && !got.accepted && (
        <div role="status" className="mt-3 border-l-4 border-unseen pl-3">
          <p className="font-semibold">
            {say.form.theSiteDidNotAccept} {got.status}).
          </p>
          <p>{say.form.correctTheFieldsItNames}</p>
          {loose.map((m) => (
            <p key={m.text}>“{m.text}”</p>
          ))}
          <SeenMessages fields={fields} seen={got.messages} />
        </div>
      )}
      {got?.accepted && (
        <div className="mt-3">
          <p role="status" className="font-semibold">
            {say.form.acceptedStatus} {got.status}
            {got.to ? say.form.redirectedTo(got.to) : ""}
          </p>
          <table className={`table mt-1 w-full ${got.fields.length === 0 ? "hidden" : ""}`}>
            <thead>
              <tr>
                <th scope="col">{say.form.field}</th>
                <th scope="col">{say.form.sent}</th>
                <th scope="col">{say.form.stored}</th>
              </tr>
            </thead>
            <tbody>
              {got.fields.map((f) => (
                <tr key={f.field}>
                  <td>{f.label}</td>
                  <td>{f.secret ? <span className="text-soft">{say.form.secret}</span> : <Value>{f.sent}</Value>}</td>
                  <td>
                    {f.stored.map((s) => (
                      <span key={s.column} className="block">
                        <span className="value">{s.column.split(".")[1]}</span>{" "}
                        <span className="text-soft">{s.change}</span>
                      </span>
                    ))}
                    {f.stored.length === 0 && <span className="text-soft">{say.form.notFoundInAnyTable}</span>}
                  </td>
                </tr>
              ))}
              {got.rest.map((s) => (
                <tr key={s.column}>
                  <td className="text-soft">{say.form.notFromAField}</td>
                  <td />
                  <td>
                    <span className="value">
                      {s.column.split(".")[1]} = {s.value}
                    </span>{" "}
                    <span className="text-soft">{s.change}</span>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {got && (
        <div className="mt-3">
          <Proposals from="the trace" list={got.proposed.proposals} notes={got.proposed.notes} onDone={onDone} />
        </div>
      )}
    </section>
  );
}
