import { useState } from "react";
import type { FormAt } from "../../api/client";
import { useLearn, useLearned, useStopLearning } from "../../api/learned";
import type { FormView } from "../../editing/form-view";
import { SeenMessages } from "../../editing/seen-messages";
import { UnusualList } from "../../editing/unusual-list";
import { ValuesForm } from "../../editing/values-form";
import { Trouble, Waiting } from "../../ui/notice";
import { ago, count } from "../../ui/time";
import { inQuery, maySubmit, ownAddress, WhereToRun } from "../../ui/where";
import { say } from "../../words";
import { Proposals } from "./proposals";

/** Submits the form until it is known what the site accepts: what breaks promises of every form, then what the document may say. */
export function Learn({
  at,
  form,
  onLearned,
  onDone,
}: {
  at: FormAt;
  form: FormView;
  onLearned?: () => void;
  onDone: () => void;
}) {
  const { fields, environments } = form;
  const [where, setWhere] = useState(ownAddress);
  const [values, setValues] = useState<Record<string, string[]>>({});
  const learn = useLearn(at);
  const learned = useLearned(at, form.brief.revision, learn.isPending);
  const stop = useStopLearning(at);
  if (learned.isPending) return <Waiting what={say.learn.loading} />;
  if (learned.isError) return <Trouble error={learned.error} again={() => learned.refetch()} />;
  const made = learned.data.under_way;
  const busy = learn.isPending || made !== undefined;
  const wanted = learn.data?.wanted ?? [];
  const asked = fields.filter((f) => wanted.some((m) => m.field === f.id));
  const messages: Record<string, string> = {};
  for (const m of wanted) if (m.field && !messages[m.field]) messages[m.field] = m.text;
  const got = learned.data;
  return (
    <section aria-label={say.learn.learn}>
      <h2 className="text-[15px]">{say.learn.learn}</h2>
      <p className="mt-1 text-soft">{say.learn.about}</p>
      <form
        className="mt-2"
        onSubmit={(e) => {
          e.preventDefault();
          if (!busy && maySubmit(where, environments))
            learn.mutate(
              { values, query: inQuery(where) },
              { onSuccess: (got) => got.wanted.length === 0 && onLearned?.() },
            );
        }}
      >
        {wanted.length > 0 && !busy && (
          <div role="status" className="mb-2 border-l-4 border-unseen pl-3">
            <p className="font-semibold">{say.learn.noValueFound}</p>
            <p>{asked.length > 0 ? say.learn.enterThose : say.learn.enterByHand}</p>
            <SeenMessages fields={fields} seen={wanted} />
            {asked.length > 0 && (
              <ValuesForm
                fields={asked}
                values={values}
                messages={messages}
                onChange={(id, list) => setValues((old) => ({ ...old, [id]: list }))}
              />
            )}
          </div>
        )}
        <div className="flex flex-wrap items-center gap-2">
          <WhereToRun where={where} environments={environments} set={setWhere} />
          {busy ? (
            <>
              <p role="status" aria-live="polite">
                {say.learn.learning} {count(made ?? 0, say.learn.submission, say.learn.submissions)}
              </p>
              <button type="button" className="button" disabled={stop.isPending} onClick={() => stop.mutate()}>
                {say.learn.stop}
              </button>
            </>
          ) : (
            <button type="submit" className="button button-lead" disabled={!maySubmit(where, environments)}>
              {got.at ? say.learn.learnAgain : say.learn.learnThisForm}
            </button>
          )}
        </div>
      </form>
      {learn.isError && <Trouble error={learn.error} />}
      {!busy && got.at && (
        <>
          <p role="status" className="mt-3">
            {count(got.submissions, say.learn.submission, say.learn.submissions)}, {ago(got.at)}.
          </p>
          <h3 className="mt-3">
            {say.unusual.unusual} {got.unusual.length > 0 && `(${got.unusual.length})`}
          </h3>
          <p className="text-soft">{got.unusual.length > 0 ? say.unusual.about : say.unusual.none}</p>
          <UnusualList
            list={got.unusual}
            before={fields.length > 0 ? [] : got.proposed.proposals.flatMap((p) => (p.chosen ? p.edits : []))}
          />
          <h3 className="mt-4">{say.learn.rules}</h3>
          <Proposals
            key={`${got.at} ${form.brief.revision}`}
            from={say.learn.fromLearning}
            list={got.proposed.proposals}
            notes={got.proposed.notes}
            onDone={onDone}
          />
        </>
      )}
    </section>
  );
}
