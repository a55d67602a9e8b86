import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { useCase } from "../../api/cases";
import { api, need } from "../../api/client";
import { useResume, useRun, useStop } from "../../api/queries";
import { useFormAddress } from "../../editing/form-view";
import { RowsTable } from "../../evidence/rows";
import { Kbd, typing } from "../../ui/keys";
import { Trouble, Waiting } from "../../ui/notice";
import { Value } from "../../ui/value";
import { say } from "../../words";

type Verdict = "as expected" | "odd" | "not observed";

/** A run whose cases a person makes: the values to copy, what to look for, and a key for what was seen. */
export function HandPage() {
  const at = useFormAddress();
  const [search, setSearch] = useSearchParams();
  const number = Number(search.get("run") ?? 0) || 0;
  const run = useRun(at, number);
  const base = `/sites/${at.site}/forms/${at.form}`;
  const resume = useResume(at, number);
  if (run.isPending) return <Waiting what={say.manual.readingTheRun} />;
  if (run.isError) return <Trouble error={run.error} again={() => run.refetch()} />;
  const all = run.data.rows.flatMap((r) => r.cases);
  const done = new Set(run.data.marks.map((m) => m.case));
  const open = all.filter((id) => !done.has(id));
  const wanted = search.get("case");
  const id = wanted && open.includes(wanted) ? wanted : open[0];
  if (run.data.run.state !== "running" || !id)
    return (
      <main className="m-8">
        <h2 className="text-lg">
          {open.length === 0 ? say.manual.allCasesAreDone : say.manual.runIs(run.data.run.number, run.data.run.state)}
        </h2>
        {open.length > 0 && (
          <p className="mt-2">
            <button
              type="button"
              className="button button-lead"
              disabled={resume.isPending}
              // biome-ignore lint/a11y/noAutofocus: what was paused is gone on with
              autoFocus
              onClick={() => resume.mutate()}
            >
              {say.manual.continueTheRun}
            </button>
          </p>
        )}
        {resume.isError && <Trouble error={resume.error} />}
        <p className="mt-2">
          <Link className="link" to={`${base}/run?run=${run.data.run.number}`}>
            {say.manual.goToTheRun}
          </Link>
        </p>
      </main>
    );
  return (
    <OneCase
      key={id}
      id={id}
      run={run.data.run.number}
      done={done.size}
      of={all.length}
      next={() => {
        const after = open[(open.indexOf(id) + 1) % open.length];
        setSearch({ run: String(run.data.run.number), ...(after && after !== id ? { case: after } : {}) });
      }}
    />
  );
}

function OneCase({ id, run, done, of, next }: { id: string; run: number; done: number; of: number; next: () => void }) {
  const at = useFormAddress();
  const cache = useQueryClient();
  const params = { path: { ...at, run } };
  const about = useCase(at, id, run);
  const handed = useQuery({
    queryKey: ["hand", at.site, at.form, run, id],
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
    retry: false,
    queryFn: () =>
      need(
        api.POST("/api/sites/{site}/forms/{form}/runs/{run}/manual-case", {
          params: { ...params, query: { case: id } },
        }),
      ),
  });
  const [note, setNote] = useState("");
  const [picture, setPicture] = useState("");
  const stop = useStop(at, run);
  const go = useNavigate();
  const rows = useQuery({
    queryKey: ["hand-rows", at.site, at.form, run, id],
    enabled: handed.isSuccess && !!handed.data.expectation,
    refetchInterval: 1500,
    gcTime: 0,
    queryFn: () =>
      need(
        api.GET("/api/sites/{site}/forms/{form}/runs/{run}/manual-changes", {
          params: { ...params, query: { case: id } },
        }),
      ),
  });
  const noteField = useRef<HTMLTextAreaElement>(null);
  const [copied, setCopied] = useState(-1);
  const record = useMutation({
    mutationFn: (verdict: Verdict) =>
      need(
        api.POST("/api/sites/{site}/forms/{form}/runs/{run}/manual-verdict", {
          params,
          body: { case: id, verdict, note, picture: picture.slice(picture.indexOf(",") + 1) },
        }),
      ),
    onSuccess: () => {
      for (const first of ["run", "cases", "sites", "form"]) cache.invalidateQueries({ queryKey: [first] });
      next();
    },
  });
  const h = handed.data;
  const values = h?.values ?? [];
  const copy = (i: number) => {
    const v = values[i];
    if (!v) return;
    setCopied(i);
    navigator.clipboard.writeText(v.value).catch(() => {}); // where it is not allowed, the value stands there to be selected
  };
  useEffect(() => {
    const listen = (e: KeyboardEvent) => {
      if (typing(e) || e.ctrlKey || e.altKey || e.metaKey || !h || record.isPending) return;
      const copiable = values.map((v, i) => (v.value !== "" ? i : -1)).filter((i) => i >= 0);
      const keys: Record<string, () => void> = {
        e: () => record.mutate("as expected"),
        o: () => noteField.current?.focus(),
        s: () => record.mutate("not observed"),
        c: () => copy(copiable.find((i) => i > copied) ?? copiable[0] ?? -1),
      };
      const act = keys[e.key];
      if (!act) return;
      e.preventDefault();
      act();
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  });
  useEffect(() => {
    const paste = (e: ClipboardEvent) => {
      const file = [...(e.clipboardData?.files ?? [])].find((f) => f.type === "image/png" || f.type === "image/jpeg");
      if (!file) return;
      e.preventDefault();
      dataURL(file).then(setPicture);
    };
    window.addEventListener("paste", paste);
    return () => window.removeEventListener("paste", paste);
  }, []);
  if (handed.isPending) return <Waiting what={say.manual.generatingValues} />;
  if (handed.isError) return <Trouble error={handed.error} again={() => handed.refetch()} />;
  const e = h?.expectation;
  return (
    <main tabIndex={0} className="overflow-auto bg-panel lg:h-full">
      <div className="flex flex-wrap items-end gap-2 border-b border-line px-5 py-3">
        <div className="grow">
          <p className="text-[12px] text-soft">
            {say.manual.byHandRun} {run} · {done} {say.manual.ofWord} {of} {say.manual.done}
            <progress className="ml-2 w-32 align-middle" value={done} max={of} aria-label={say.manual.progress} />
          </p>
          <h2 className="text-[18px]">{about.data?.case.title ?? id}</h2>
        </div>
        <button type="button" className="button" disabled={stop.isPending} onClick={() => stop.mutate()}>
          {say.manual.pause}
        </button>
        <button
          type="button"
          className="button"
          disabled={stop.isPending}
          onClick={() =>
            stop.mutate(undefined, { onSuccess: () => go(`/sites/${at.site}/forms/${at.form}/run?run=${run}`) })
          }
        >
          {say.manual.endTheRun}
        </button>
      </div>
      {stop.isError && <Trouble error={stop.error} />}
      <div className="grid grid-cols-1 gap-8 px-5 py-3 md:grid-cols-[minmax(0,1fr)_minmax(0,1fr)]">
        <section aria-label={say.manual.enter}>
          <h3 className="text-[16px]">{say.manual.enter}</h3>
          {h?.why && <p className="text-unseen">{h.why}</p>}
          {h?.page && (
            <p className="mb-2">
              {say.manual.onThePage}{" "}
              <a className="link break-all" href={h.page} target="_blank" rel="noreferrer noopener">
                {h.page}
              </a>
            </p>
          )}
          <table className="table w-full [&_td]:align-middle">
            <tbody>
              {values.map((v, i) => (
                <tr key={v.field} className={`align-middle ${copied === i ? "bg-ground" : ""}`}>
                  <th scope="row" className="w-[170px] text-left font-normal">
                    {v.label}
                  </th>
                  <td>
                    {v.kind === "checkbox" ? (
                      <span className="text-soft">{v.checked ? say.manual.checkIt : say.manual.leaveItUnchecked}</span>
                    ) : v.left ? (
                      <span className="text-soft">{say.manual.leaveItBlank}</span>
                    ) : (
                      <Value>{v.value}</Value>
                    )}
                  </td>
                  <td className="w-[60px]">
                    {v.value !== "" && (
                      <button
                        type="button"
                        className="button"
                        onClick={() => copy(i)}
                        aria-label={say.manual.copy(v.label)}
                      >
                        {say.manual.copy2}
                      </button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="mt-2 text-soft">
            <Kbd>{say.manual.c}</Kbd> {say.manual.copiesTheNextValueThen}
          </p>
        </section>
        <section aria-label={say.manual.expected}>
          <h3 className="text-[16px]">{say.manual.expected}</h3>
          {e && (
            <>
              <p>
                <strong>{e.outcome}</strong>. {h.reason}
              </p>
              <ul className="mt-1">
                {(e.messages ?? []).map((m) => (
                  <li key={m.rule}>
                    {m.text ? (
                      <>
                        {say.manual.message} <Value>{m.text}</Value>
                      </>
                    ) : (
                      say.manual.aMessageThatSaysWhat
                    )}{" "}
                    <span className="text-soft">
                      {m.place === "field" && m.field ? say.manual.at(labelOf(values, m.field)) : m.place}
                    </span>
                  </li>
                ))}
                {e.reply && (
                  <li>
                    {say.manual.message} <Value>{e.reply}</Value>
                  </li>
                )}
                {e.to && (
                  <li>
                    {say.manual.redirectsTo} <Value>{e.to}</Value>
                  </li>
                )}
                {(e.refilled ?? []).length > 0 && <li>{say.manual.valuesAreKeptPasswordsAre}</li>}
                {(e.rows ?? []).map((r) => (
                  <li key={r.table} className="text-soft">
                    {r.updates ? say.manual.aRowIsChanged : say.manual.aRowIsWritten} {say.manual.inWord}{" "}
                    <span className="value">{r.table}</span> {say.manual.comparedAutomaticallyWhereTheDatabase}
                  </li>
                ))}
              </ul>
            </>
          )}
          <form
            className="mt-4 grid gap-2"
            onSubmit={(ev) => {
              ev.preventDefault();
              record.mutate("odd");
            }}
          >
            <label>
              {say.manual.whatIsOdd}
              <textarea
                ref={noteField}
                className="field block w-full"
                rows={3}
                maxLength={2000}
                value={note}
                onChange={(ev) => setNote(ev.target.value)}
                onKeyDown={(ev) => {
                  if (ev.ctrlKey && ev.key === "Enter") {
                    ev.preventDefault();
                    record.mutate("odd");
                  }
                  if (ev.key === "Escape") ev.currentTarget.blur();
                }}
              />
            </label>
            <Picture picture={picture} choose={setPicture} />
            <div className="flex flex-wrap items-center gap-2">
              <button
                type="button"
                className="button button-lead"
                disabled={record.isPending || !e}
                onClick={() => record.mutate("as expected")}
              >
                {say.manual.asExpected}
              </button>
              <Kbd>{say.manual.e}</Kbd>
              <button type="submit" className="button" disabled={record.isPending || !e}>
                {say.manual.odd}
              </button>
              <Kbd>{say.manual.o}</Kbd>
              <button
                type="button"
                className="button"
                disabled={record.isPending}
                onClick={() => record.mutate("not observed")}
              >
                {say.manual.notObserved}
              </button>
              <Kbd>{say.manual.s}</Kbd>
              <button type="button" className="button" onClick={next}>
                {say.manual.later}
              </button>
            </div>
          </form>
          {record.isError && <Trouble error={record.error} />}
          {e && (
            <section aria-label={say.manual.inTheDatabase} className="mt-5" aria-live="polite">
              <h3 className="text-[16px]">{say.manual.inTheDatabase}</h3>
              {rows.isError && <Trouble error={rows.error} again={() => rows.refetch()} />}
              {rows.data?.changes.length === 0 && <p className="text-soft">{say.manual.noRowYet}</p>}
              {rows.data?.changes.map((c) => (
                <RowsTable key={`${c.table}/${c.key}`} change={c} expected={e.rows?.find((r) => r.table === c.table)} />
              ))}
            </section>
          )}
        </section>
      </div>
    </main>
  );
}

/** A picture of what was seen: chosen, or pasted from the clipboard anywhere in the view. */
function Picture({ picture, choose }: { picture: string; choose: (dataURL: string) => void }) {
  return (
    <div>
      <label>
        {say.manual.picture}{" "}
        <input
          type="file"
          className="file:mr-2 file:rounded-sm file:border file:border-solid file:border-rule file:bg-panel file:px-2 file:py-0.5 file:text-ink"
          accept="image/png,image/jpeg"
          onChange={async (e) => choose(await dataURL(e.target.files?.[0]))}
        />
      </label>
      <span className="text-soft">{say.manual.orPasteOne}</span>
      {picture !== "" && (
        <p className="mt-1 flex items-start gap-2">
          <img src={picture} alt={say.manual.chosenPicture} className="max-h-32 border border-line" />
          <button type="button" className="button" onClick={() => choose("")}>
            {say.manual.removePicture}
          </button>
        </p>
      )}
    </div>
  );
}

function labelOf(values: { field: string; label: string }[], field: string): string {
  return values.find((v) => v.field === field)?.label ?? field;
}

async function dataURL(file?: File): Promise<string> {
  if (!file) return "";
  return await new Promise<string>((resolve, reject) => {
    const reader = new FileReader();
    reader.onload = () => resolve(String(reader.result));
    reader.onerror = () => reject(reader.error);
    reader.readAsDataURL(file);
  });
}
