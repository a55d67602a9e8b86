import { Link, useNavigate, useSearchParams } from "react-router";
import { useCase } from "../api/cases";
import type { Schemas } from "../api/client";
import { useStart } from "../api/queries";
import { Drawn } from "../parts/drawn";
import { Checks } from "../parts/evidence";
import { useKey } from "../parts/keys";
import { Limit } from "../parts/limit";
import { Trouble, Waiting } from "../parts/notice";
import { RowsTable } from "../parts/rows";
import { Tick, type Verdict } from "../parts/tick";
import { Together } from "../parts/together";
import { Value } from "../parts/value";
import { useAt } from "./form-frame";

type StepResult = Schemas["ReportStepResult"];
type Exchange = Schemas["ObservationExchange"];

/** One case: expected against observed, request, answer, rows. */
export function CasePage() {
  const at = useAt();
  const go = useNavigate();
  const [search] = useSearchParams();
  const id = search.get("id");
  const one = useCase(at, id, Number(search.get("run") ?? 0) || 0);
  const start = useStart(at);
  const base = `/sites/${at.site}/forms/${at.form}`;
  useKey("Escape", () => go(`${base}/cases?case=${encodeURIComponent(id ?? "")}`));
  if (one.isPending) return <Waiting what="Reading the case …" />;
  if (one.isError) return <Trouble error={one.error} again={() => one.refetch()} />;
  const { case: c, result, run, twin, bound } = one.data;
  const driver = c.steps.at(-1)?.driver;
  const pictureOf = (step: StepResult) =>
    step.observation?.drawn?.picture
      ? `/api/sites/${at.site}/forms/${at.form}/runs/${run}/picture?case=${encodeURIComponent(c.id)}&name=${step.observation.drawn.picture}`
      : undefined;
  const steps = result?.steps ?? [];
  return (
    <main tabIndex={0} className="h-full overflow-y-auto bg-panel">
      <div className="border-b border-line px-5 py-3">
        <p className="text-[12px] text-soft">
          <Link className="link" to={`${base}/cases?case=${encodeURIComponent(c.id)}`}>
            on its scale
          </Link>{" "}
          · {c.technique} · {driver === "browser" ? "in the browser" : "over HTTP"} ·{" "}
          <span className="value">{c.id}</span>
          {run ? ` · run ${run}` : ""}
          {result && result.attempt > 1 ? `, attempt ${result.attempt}` : ""}
        </p>
        <div className="flex items-center justify-between gap-4">
          <div className="flex items-center gap-2">
            <Tick verdict={result?.verdict as Verdict} height={24} />
            <div>
              <h2 className="text-[18px] leading-tight">{result?.headline ?? "Not run yet"}</h2>
              <p>{c.title}</p>
              {twin && (
                <p className="text-[12.5px]">
                  The same {twin.driver === "browser" ? "in the browser" : "over HTTP"}:{" "}
                  <Link
                    className="link"
                    to={`${base}/case?id=${encodeURIComponent(twin.case)}${run ? `&run=${run}` : ""}`}
                  >
                    {twin.headline ?? "not run"}
                  </Link>
                </p>
              )}
            </div>
          </div>
          {result && run && (
            <a
              className="button ml-auto"
              download
              href={`/api/sites/${at.site}/forms/${at.form}/runs/${run}/archive?case=${encodeURIComponent(c.id)}`}
            >
              Requests as HAR
            </a>
          )}
          <button
            type="button"
            className="button"
            disabled={start.isPending}
            onClick={() => start.mutate({ cases: [c.id] }, { onSuccess: () => go(`${base}/run`) })}
          >
            Run this case alone
          </button>
        </div>
        {start.isError && <Trouble error={start.error} />}
      </div>
      {steps.length === 0 && (
        <p className="px-5 py-4">
          Expected: {c.steps.at(-1)?.expect}. Covers{" "}
          {c.covers.map((x) => [x.kind, x.of, x.point].filter(Boolean).join(" ")).join(", ")}.
        </p>
      )}
      {bound && <Limit key={c.id} at={at} bound={bound} />}
      {result && <Together result={result} />}
      {result?.left_out && (
        <p className="px-5 py-2 text-[12.5px] text-soft">
          Answers and pictures are not kept: {result.left_out}. Run this case alone to see them.
        </p>
      )}
      {steps.map((s, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a case's steps are known by their order alone
        <StepBlock key={i} step={s} number={i + 1} of={steps.length} picture={pictureOf(s)} />
      ))}
    </main>
  );
}

export function StepBlock({
  step,
  number,
  of,
  picture,
}: {
  step: StepResult;
  number: number;
  of: number;
  picture?: string;
}) {
  const o = step.observation;
  const e = step.expectation;
  return (
    <section aria-label={`Step ${number}`} className="border-b border-line px-5 py-4">
      {of > 1 && (
        <h3 className="mb-2 flex items-center gap-1 text-[15px]">
          <Tick verdict={step.judgement.verdict as Verdict} />
          Step {number} of {of}: {step.do} — {step.judgement.headline}
        </h3>
      )}
      <div className="grid grid-cols-2 gap-8">
        <div>
          {e && (
            <p className="mb-2">
              Expected <strong>{e.outcome}</strong>.{" "}
              {(e.failing ?? []).map((f) => f.why).join(" ") ||
                { accepted: "Every rule is kept.", "not answered": "The values stay, and the form can be sent again." }[
                  e.outcome as string
                ]}
            </p>
          )}
          <Checks checks={step.judgement.checks} all />
        </div>
        <div className="min-w-0">
          {o?.sent && (
            <details open>
              <summary className="cursor-pointer font-semibold">Sent</summary>
              {o.sent.replaced && <p className="mb-1">The answer is replaced: {o.sent.replaced}.</p>}
              {o.sent.mistake && (
                <p className="mb-1">
                  First entered in <span className="value">{o.sent.mistake.name}</span>, and corrected:{" "}
                  {o.sent.mistake.value === "" ? (
                    <span className="text-soft">blank</span>
                  ) : (
                    <Value>{o.sent.mistake.value}</Value>
                  )}
                </p>
              )}
              {o.sent.body !== undefined && (
                <p>
                  {o.sent.body === "" ? <span className="text-soft">an empty body</span> : <Value>{o.sent.body}</Value>}
                </p>
              )}
              <table className="table w-full">
                <tbody>
                  {o.sent.pairs.map((p, i) => (
                    // biome-ignore lint/suspicious/noArrayIndexKey: a name may be sent twice
                    <tr key={i}>
                      <td className="value w-[120px]">{p.name}</td>
                      <td>
                        {p.null ? (
                          <span className="value">null</span>
                        ) : p.value === "" ? (
                          <span className="text-soft">blank</span>
                        ) : (
                          <Value>{p.value}</Value>
                        )}
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </details>
          )}
          {o && <Drawn step={o} picture={picture} />}
          <h4 className="mt-4 font-semibold">Rows</h4>
          {(o?.watched ?? []).length === 0 && <p className="text-unseen">No database is watched.</p>}
          {(o?.watched ?? []).length > 0 && (o?.changes ?? []).length === 0 && (
            <p className="text-soft">No row changed in {(o?.watched ?? []).join(", ")}.</p>
          )}
          {(o?.changes ?? []).map((c) => (
            <RowsTable key={`${c.table}/${c.key}`} change={c} expected={e?.rows?.find((r) => r.table === c.table)} />
          ))}
          {o?.failure && <p className="mt-3">{o.failure}</p>}
          {(o?.exchanges ?? []).map((x, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: requests are known by their order
            <ExchangeBlock key={i} x={x} />
          ))}
        </div>
      </div>
    </section>
  );
}

function ExchangeBlock({ x }: { x: Exchange }) {
  return (
    <details className="mt-3 border-t border-line pt-2">
      <summary className="cursor-pointer">
        <span className="value font-semibold">
          {x.method} {path(x.url)} → {x.status}
        </span>
        {x.location && <span className="value text-soft"> to {path(x.location)}</span>}
        <span className="text-soft"> {(x.took / 1e6).toFixed(0)} ms</span>
      </summary>
      {x.not_followed && <p className="text-unseen">Not followed: {x.not_followed}</p>}
      <Lines title="Request" headers={x.request_header ?? []} body={x.request_body ?? ""} />
      <Lines title="Answer" headers={x.response_header ?? []} body={x.body ?? ""} />
    </details>
  );
}

/** Headers and body as text; nothing of a site's page is ever rendered as a page here. */
function Lines({ title, headers, body }: { title: string; headers: Schemas["ObservationHeader"][]; body: string }) {
  return (
    <>
      <h5 className="mt-2 text-[12px] text-soft">{title}</h5>
      <pre className="value max-h-72 overflow-auto border border-line bg-ground p-2" tabIndex={0}>
        {headers.map((h) => `${h.name}: ${h.value}\n`).join("")}
        {body && `\n${body}`}
      </pre>
    </>
  );
}

function path(url: string): string {
  try {
    const u = new URL(url);
    return u.pathname + u.search;
  } catch {
    return url;
  }
}
