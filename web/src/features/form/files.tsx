import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import type { FormAt } from "../../api/client";
import { api, need } from "../../api/client";
import { Trouble } from "../../ui/notice";
import { say } from "../../words";
import { Proposals } from "./proposals";

/** Reads a JSON Schema, or a request body of an OpenAPI document. */
export function FromSchemaFile({ at, onDone }: { at: FormAt; onDone: () => void }) {
  const [text, setText] = useState("");
  const read = useMutation({
    mutationFn: (operation: string) =>
      need(
        api.POST("/api/sites/{site}/forms/{form}/imports/schema", { params: { path: at }, body: { text, operation } }),
      ),
  });
  const got = read.data;
  return (
    <section aria-label={say.form.fromAJsonSchema}>
      <h2 className="text-[15px]">{say.form.fromAJsonSchemaOr}</h2>
      <textarea
        aria-label={say.form.jsonSchemaOrOpenapi}
        className="field value mt-2 h-40 w-full"
        value={text}
        onChange={(e) => setText(e.target.value)}
      />
      <button type="button" className="button mt-1" disabled={!text || read.isPending} onClick={() => read.mutate("")}>
        {say.form.read}
      </button>
      {read.isError && <Trouble error={read.error} />}
      {got && got.operations.length > 0 && (
        <label className="mt-2 block">
          {say.form.request}{" "}
          <select className="cell value" value={got.operation} onChange={(e) => read.mutate(e.target.value)}>
            {got.operations.map((o) => (
              <option key={o}>{o}</option>
            ))}
          </select>
        </label>
      )}
      {got && <Proposals key={got.operation} from={got.from} list={got.proposals} notes={got.notes} onDone={onDone} />}
    </section>
  );
}

/** Reads a list of rules from a spreadsheet, with a choice of what each column holds. */
export function FromList({ at, onDone }: { at: FormAt; onDone: () => void }) {
  const [text, setText] = useState("");
  const [columns, setColumns] = useState<string[]>([]);
  const read = useMutation({
    mutationFn: (chosen: string[]) =>
      need(
        api.POST("/api/sites/{site}/forms/{form}/imports/list", {
          params: { path: at },
          body: { text, columns: chosen },
        }),
      ),
    onSuccess: (got) => setColumns(got.columns),
  });
  const got = read.data;
  const choose = (i: number, meaning: string) => {
    const next = columns.map((c, k) => (k === i ? meaning : c));
    setColumns(next);
    read.mutate(next);
  };
  return (
    <section aria-label={say.form.fromAListOfRules}>
      <h2 className="text-[15px]">{say.form.fromAListOfRules}</h2>
      <p className="mt-1 text-soft">{say.form.csvFromASpreadsheetA}</p>
      <textarea
        aria-label={say.form.listOfRules}
        className="field value mt-2 h-40 w-full"
        value={text}
        onChange={(e) => setText(e.target.value)}
      />
      <button type="button" className="button mt-1" disabled={!text || read.isPending} onClick={() => read.mutate([])}>
        {say.form.read}
      </button>
      {read.isError && <Trouble error={read.error} />}
      {got && (
        <>
          <table className="table mt-2 w-full">
            <thead>
              <tr>
                <th scope="col">{say.form.head}</th>
                <th scope="col">{say.form.holds}</th>
                <th scope="col">{say.form.firstLine}</th>
              </tr>
            </thead>
            <tbody>
              {got.heads.map((h, i) => (
                <tr key={h}>
                  <td>{h}</td>
                  <td>
                    <select
                      aria-label={say.form.meaningOf(h)}
                      className="cell"
                      value={columns[i] ?? ""}
                      onChange={(e) => choose(i, e.target.value)}
                    >
                      <option value="">{say.form.ignore}</option>
                      {got.meanings.map((m) => (
                        <option key={m}>{m}</option>
                      ))}
                    </select>
                  </td>
                  <td className="value">{got.first[i]}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <Proposals key={columns.join("|")} from={got.from} list={got.proposals} notes={got.notes} onDone={onDone} />
        </>
      )}
    </section>
  );
}

/** Reads a user story, a help text, or criteria. The sentences of which something was read are marked. */
export function FromText({ at, onDone }: { at: FormAt; onDone: () => void }) {
  const [text, setText] = useState("");
  const read = useMutation({
    mutationFn: () =>
      need(api.POST("/api/sites/{site}/forms/{form}/imports/text", { params: { path: at }, body: { text } })),
  });
  const got = read.data;
  return (
    <section aria-label={say.form.fromAText}>
      <h2 className="text-[15px]">{say.form.fromAText}</h2>
      <p className="mt-1 text-soft">{say.form.aTextNamesFields}</p>
      <textarea
        aria-label={say.form.text}
        className="field mt-2 h-40 w-full"
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => e.key === "Enter" && e.ctrlKey && text && read.mutate()}
      />
      <button type="button" className="button mt-1" disabled={!text || read.isPending} onClick={() => read.mutate()}>
        {say.form.read}
      </button>
      {read.isError && <Trouble error={read.error} />}
      {got && (
        <>
          <section className="mt-2" aria-label={say.form.whatWasRead}>
            {got.sentences.map((s, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: the same sentence may stand twice
              <span key={i} className={s.rules === 0 ? "text-soft" : undefined}>
                {s.rules === 0 ? s.text : <mark className="bg-band text-ink">{s.text}</mark>}{" "}
              </span>
            ))}
          </section>
          {got.proposals.length === 0 && <p className="mt-2">{say.form.nothingWasRead}</p>}
          <Proposals key={read.submittedAt} from={got.from} list={got.proposals} notes={got.notes} onDone={onDone} />
        </>
      )}
    </section>
  );
}

/** Reads a request that was recorded: an HTTP Archive, pasted or chosen as a file, or a command line of curl. */
export function FromRequest({ at, onDone }: { at: FormAt; onDone: () => void }) {
  const [text, setText] = useState("");
  // What was read: the text, or a file, which may be too large to be shown.
  const [recording, setRecording] = useState("");
  const read = useMutation({
    mutationFn: ({ text, request }: { text: string; request?: number }) =>
      need(
        api.POST("/api/sites/{site}/forms/{form}/imports/request", { params: { path: at }, body: { text, request } }),
      ),
  });
  const got = read.data;
  const take = (recorded: string) => {
    setRecording(recorded);
    read.mutate({ text: recorded });
  };
  return (
    <section aria-label={say.form.fromARecordedRequest}>
      <h2 className="text-[15px]">{say.form.fromARecordedRequest}</h2>
      <p className="mt-1 text-soft">{say.form.copyARequest}</p>
      <textarea
        aria-label={say.form.recordedRequest}
        className="field value mt-2 h-40 w-full"
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => e.key === "Enter" && e.ctrlKey && text && take(text)}
      />
      <div className="mt-1 flex items-center gap-3">
        <button type="button" className="button" disabled={!text || read.isPending} onClick={() => take(text)}>
          {say.form.read}
        </button>
        <label className="min-w-0">
          {say.form.archiveFile}{" "}
          <input
            type="file"
            className="max-w-full file:mr-2 file:rounded-sm file:border file:border-solid file:border-rule file:bg-panel file:px-2 file:py-0.5 file:text-ink"
            accept=".har,application/json"
            onChange={async (e) => {
              const chosen = await e.target.files?.[0]?.text();
              if (chosen) take(chosen);
            }}
          />
        </label>
      </div>
      {read.isError && <Trouble error={read.error} />}
      {got && got.requests.length > 1 && (
        <label className="mt-2 block">
          {say.form.request}{" "}
          <select
            className="cell value"
            value={got.request}
            onChange={(e) => read.mutate({ text: recording, request: Number(e.target.value) })}
          >
            {got.requests.map((r, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: the same request may have been sent twice
              <option key={i} value={i}>
                {r}
              </option>
            ))}
          </select>
        </label>
      )}
      {got && <Proposals key={got.request} from={got.from} list={got.proposals} notes={got.notes} onDone={onDone} />}
    </section>
  );
}
