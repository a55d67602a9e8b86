import type { Schemas } from "../api/client";
import { Tick, type Verdict } from "../ui/tick";
import { Value } from "../ui/value";
import { say } from "../words";
import { Checks } from "./checks";
import { Drawn } from "./page-picture";
import { RowsTable } from "./rows";

export type StepResult = Schemas["ReportStepResult"];

type Exchange = Schemas["ObservationExchange"];

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
    <section aria-label={say.evidence.step(number)} className="border-b border-line px-5 py-4">
      {of > 1 && (
        <h3 className="mb-2 flex items-center gap-1 text-[15px]">
          <Tick verdict={step.judgement.verdict as Verdict} />
          {say.evidence.step2} {number} {say.evidence.ofWord} {of}: {step.do} — {step.judgement.headline}
        </h3>
      )}
      <div className="grid grid-cols-2 gap-8">
        <div>
          {e && (
            <p className="mb-2">
              {say.evidence.expected2} <strong>{e.outcome}</strong>.{" "}
              {(e.failing ?? []).map((f) => f.why).join(" ") ||
                {
                  accepted: say.evidence.everyRuleIsSatisfied,
                  "not answered": say.evidence.theValuesStayAndThe,
                }[e.outcome as string]}
            </p>
          )}
          <Checks checks={step.judgement.checks} all />
        </div>
        <div className="min-w-0">
          {o?.sent && (
            <details open>
              <summary className="cursor-pointer font-semibold">{say.evidence.sent}</summary>
              {o.sent.replaced && (
                <p className="mb-1">
                  {say.evidence.answerReplacedBy} {o.sent.replaced}.
                </p>
              )}
              {o.sent.mistake && (
                <p className="mb-1">
                  {say.evidence.firstEnteredIn} <span className="value">{o.sent.mistake.name}</span>
                  {say.evidence.andCorrected}{" "}
                  {o.sent.mistake.value === "" ? (
                    <span className="text-soft">{say.evidence.blank}</span>
                  ) : (
                    <Value>{o.sent.mistake.value}</Value>
                  )}
                </p>
              )}
              {o.sent.body !== undefined && (
                <p>
                  {o.sent.body === "" ? (
                    <span className="text-soft">{say.evidence.anEmptyBody}</span>
                  ) : (
                    <Value>{o.sent.body}</Value>
                  )}
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
                          <span className="value">{say.evidence.nullWord2}</span>
                        ) : p.value === "" ? (
                          <span className="text-soft">{say.evidence.blank}</span>
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
          <h3 className="mt-4 font-semibold">{say.evidence.rows2}</h3>
          {(o?.watched ?? []).length === 0 && <p className="text-unseen">{say.evidence.noDatabaseIsWatched}</p>}
          {(o?.watched ?? []).length > 0 && (o?.changes ?? []).length === 0 && (
            <p className="text-soft">
              {say.evidence.noRowChangedIn} {(o?.watched ?? []).join(", ")}.
            </p>
          )}
          {(o?.changes ?? []).map((c) => (
            <RowsTable key={`${c.table}/${c.key}`} change={c} expected={e?.rows?.find((r) => r.table === c.table)} />
          ))}
          {o?.mails_received && <Mails list={o.mails ?? []} />}
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

/** The mails that a submission has sent, as text. */
function Mails({ list }: { list: Schemas["ObservationMail"][] }) {
  return (
    <>
      <h3 className="mt-4 font-semibold">{say.evidence.mails}</h3>
      {list.length === 0 && <p className="text-soft">{say.evidence.noMailCame}</p>}
      {list.map((m, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: mails are known by their order
        <details key={i} className="mt-1">
          <summary className="cursor-pointer">
            <span className="value">{m.to}</span>: <Value>{m.subject}</Value>
          </summary>
          <pre
            className="value max-h-72 overflow-auto border border-line bg-ground p-2 whitespace-pre-wrap"
            tabIndex={0}
          >
            {m.text}
          </pre>
        </details>
      ))}
    </>
  );
}

function ExchangeBlock({ x }: { x: Exchange }) {
  return (
    <details className="mt-3 border-t border-line pt-2">
      <summary className="cursor-pointer">
        <span className="value font-semibold">
          {x.method} {path(x.url)} → {x.status}
        </span>
        {x.location && (
          <span className="value text-soft">
            {" "}
            {say.evidence.to} {path(x.location)}
          </span>
        )}
        <span className="text-soft">
          {" "}
          {(x.took / 1e6).toFixed(0)} {say.evidence.ms2}
        </span>
      </summary>
      {x.not_followed && (
        <p className="text-unseen">
          {say.evidence.notFollowed} {x.not_followed}
        </p>
      )}
      <Lines title={say.evidence.request} headers={x.request_header ?? []} body={x.request_body ?? ""} />
      <Lines title={say.evidence.answer} headers={x.response_header ?? []} body={x.body ?? ""} />
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
