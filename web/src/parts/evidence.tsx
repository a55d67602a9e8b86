import type { Schemas } from "../api/client";
import { Tick, type Verdict } from "./tick";
import { Compared, Value } from "./value";

export type CaseView = Schemas["CaseView"];
type Check = Schemas["JudgeCheck"];
type Part = Schemas["JudgePart"];

/** What happened, in words first, then expected and observed for each check. */
export function Evidence({ view }: { view: CaseView }) {
  const c = view.case;
  const result = view.result;
  const last = result?.steps?.at(-1);
  const oddStep = result?.steps?.find((s) => s.judgement.verdict === "odd") ?? last;
  const cut = cutShort(oddStep?.judgement.checks ?? []);
  const others = (view.also ?? []).filter((id) => id !== c.id);
  return (
    <article>
      <p className="text-[12px] text-soft">{c.title}</p>
      <h2 className="text-[17px] leading-snug">{result ? result.headline : "Not run yet"}</h2>
      {!result && <p className="mt-1">Expected: {c.steps?.at(-1)?.expect}.</p>}
      {oddStep?.expectation && (
        <p className="mt-1">
          {(oddStep.expectation.failing ?? []).map((f) => f.why).join(" ") || "Every rule is kept."}
        </p>
      )}
      {cut && (
        <div className="mt-3">
          <Compared sent={cut.expected ?? ""} stored={cut.observed ?? ""} />
        </div>
      )}
      {oddStep && (
        <div className="mt-3">
          <Checks checks={oddStep.judgement.checks ?? []} />
        </div>
      )}
      {others.length > 0 && (
        <p className="mt-3 text-soft">
          {others.length === 1 ? "One other case is" : `${others.length} other cases are`} odd in the same way.
        </p>
      )}
    </article>
  );
}

function cutShort(checks: Check[]): Part | undefined {
  return checks
    .filter((c) => c.check === "Stored data")
    .flatMap((c) => c.parts ?? [])
    .find((p) => p.verdict === "odd" && p.name.includes(".") && p.expected !== undefined && p.observed !== undefined);
}

/** The seven checks; odd parts with expected and observed, the rest in one line. */
export function Checks({ checks, all = false }: { checks: Check[]; all?: boolean }) {
  return (
    <ul aria-label="Checks">
      {checks.map((c) => (
        <li key={c.check} className="grid grid-cols-[18px_98px_minmax(0,1fr)] gap-1 border-t border-line py-1.5">
          <Tick verdict={c.verdict as Verdict} />
          <span className="font-semibold">{c.check}</span>
          <div>
            {parts(c, all).map((p) => (
              <PartLine key={p.name} part={p} values={c.check === "Stored data" || c.check === "Refilled values"} />
            ))}
          </div>
        </li>
      ))}
    </ul>
  );
}

function parts(c: Check, all: boolean): Part[] {
  const list = c.parts ?? [];
  if (all) return list;
  const telling = list.filter((p) => p.verdict === "odd" || p.verdict === "not observed");
  if (telling.length > 0) return telling;
  const kept = list.find((p) => p.verdict === "as expected") ?? list[0];
  return kept ? [kept] : [];
}

/** values: expected and observed are values, not sentences. */
function PartLine({ part, values }: { part: Part; values: boolean }) {
  const Text = values ? Value : Sentence;
  if (part.verdict === "does not apply" || part.verdict === "not observed") {
    const tone = part.verdict === "not observed" ? "text-unseen" : "text-soft";
    return (
      <p className={tone}>
        {part.verdict === "not observed" ? "Not observed: " : "Does not apply: "}
        {part.why}
        {part.observed ? ` (${part.observed})` : ""}
      </p>
    );
  }
  const odd = part.verdict === "odd";
  if (!odd)
    return (
      <p className="text-soft">
        {part.name !== "outcome" && <span className="text-[12px]">{part.name}: </span>}
        <Text>{part.observed ?? ""}</Text>
      </p>
    );
  return (
    <div className="mb-1">
      {part.name !== "outcome" && <p className="font-semibold text-odd">{part.name}</p>}
      <p>
        Expected <Text>{part.expected ?? ""}</Text>
      </p>
      <p>
        Observed <Text>{part.observed ?? ""}</Text>
      </p>
    </div>
  );
}

function Sentence({ children }: { children: string }) {
  return <span className="break-words">{children}</span>;
}
