import type { Schemas } from "../api/client";
import { checkName } from "../api/words.gen";
import { Tick, type Verdict } from "../ui/tick";
import { Compared, Value } from "../ui/value";
import { say, worded } from "../words";

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
  const others = view.also.filter((id) => id !== c.id);
  return (
    <article>
      <p className="text-[12px] text-soft">{c.title}</p>
      <h2 className="text-[17px] leading-snug">{result ? result.headline : say.evidence.notRunYet}</h2>
      {!result && (
        <p className="mt-1">
          {say.evidence.expected} {worded(c.steps.at(-1)?.expect ?? "")}.
        </p>
      )}
      {oddStep?.expectation && (
        <p className="mt-1">
          {(oddStep.expectation.failing ?? []).map((f) => f.why).join(" ") || say.evidence.everyRuleIsSatisfied}
        </p>
      )}
      {cut && (
        <div className="mt-3">
          <Compared sent={cut.words.expected ?? ""} stored={cut.words.observed ?? ""} />
        </div>
      )}
      {oddStep && (
        <div className="mt-3">
          <Checks checks={oddStep.judgement.checks} />
        </div>
      )}
      {others.length > 0 && (
        <p className="mt-3 text-soft">
          {others.length === 1 ? say.evidence.oneOtherCaseIs : say.evidence.otherCasesAre(others.length)}{" "}
          {say.evidence.oddForTheSameReason}
        </p>
      )}
    </article>
  );
}

function cutShort(checks: Check[]): Part | undefined {
  return checks
    .filter((c) => c.check === "stored_data")
    .flatMap((c) => c.parts)
    .find((p) => p.verdict === "odd" && p.aspect === "column" && p.expected && p.observed);
}

/** The seven checks; odd parts with expected and observed, the rest in one line. */
export function Checks({ checks, all = false }: { checks: Check[]; all?: boolean }) {
  return (
    <ul aria-label={say.evidence.checks}>
      {checks.map((c) => (
        <li key={c.check} className="grid grid-cols-[18px_98px_minmax(0,1fr)] gap-1 border-t border-line py-1.5">
          <Tick verdict={c.verdict as Verdict} />
          <span className="font-semibold">{checkName[c.check]}</span>
          <div>
            {parts(c, all)
              .filter((p) => !p.follows)
              .map((p, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: the list stays as it is
                <PartLine key={i} part={p} values={c.check === "stored_data" || c.check === "refilled_values"} />
              ))}
            {c.parts.some((p) => p.follows) && (
              <details className="text-[12.5px]">
                <summary>
                  {c.parts.filter((p) => p.follows).length === 1
                    ? say.evidence.n1DifferenceFollowsFromAnother
                    : say.evidence.differencesFollowFromAnother(c.parts.filter((p) => p.follows).length)}
                </summary>
                {c.parts
                  .filter((p) => p.follows)
                  .map((p, i) => (
                    // biome-ignore lint/suspicious/noArrayIndexKey: the list stays as it is
                    <PartLine key={i} part={p} values={c.check === "stored_data" || c.check === "refilled_values"} />
                  ))}
              </details>
            )}
          </div>
        </li>
      ))}
    </ul>
  );
}

function parts(c: Check, all: boolean): Part[] {
  const list = c.parts;
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
        {part.verdict === "not observed" ? say.evidence.notObserved : say.evidence.notJudged}
        {part.words.why}
        {part.words.observed ? ` (${part.words.observed})` : ""}
      </p>
    );
  }
  const odd = part.verdict === "odd";
  if (!odd)
    return (
      <p className="text-soft">
        {part.aspect !== "outcome" && <span className="text-[12px]">{part.words.name}: </span>}
        <Text>{part.words.observed ?? ""}</Text>
      </p>
    );
  return (
    <div className="mb-1">
      {part.aspect !== "outcome" && <p className="font-semibold text-odd">{part.words.name}</p>}
      <p>
        {say.evidence.expected2} <Text>{part.words.expected ?? ""}</Text>
      </p>
      <p>
        {say.evidence.observed} <Text>{part.words.observed ?? ""}</Text>
      </p>
    </div>
  );
}

function Sentence({ children }: { children: string }) {
  return <span className="break-words">{children}</span>;
}
