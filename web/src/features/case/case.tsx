import { Link, useNavigate, useSearchParams } from "react-router";
import { useCase } from "../../api/cases";
import { useStart } from "../../api/queries";
import { useFormAddress, useFormView } from "../../editing/form-view";
import { Limit } from "../../evidence/limit";
import { Together } from "../../evidence/race";
import { StepBlock, type StepResult } from "../../evidence/step-block";
import { useKey } from "../../ui/keys";
import { Trouble, Waiting } from "../../ui/notice";
import { Tick, type Verdict } from "../../ui/tick";
import { say, worded } from "../../words";

/** One case: expected against observed, request, answer, rows. */
export function CasePage() {
  const at = useFormAddress();
  const go = useNavigate();
  const [search] = useSearchParams();
  const id = search.get("id");
  const { environments } = useFormView();
  const one = useCase(at, id, Number(search.get("run") ?? 0) || 0);
  const start = useStart(at);
  const base = `/sites/${at.site}/forms/${at.form}`;
  useKey("Escape", () => go(`${base}/cases?case=${encodeURIComponent(id ?? "")}`));
  if (one.isPending) return <Waiting what={say.case.loadingTheCase} />;
  if (one.isError) return <Trouble error={one.error} again={() => one.refetch()} />;
  const { case: c, result, run, twin, bound } = one.data;
  const driver = c.steps.at(-1)?.driver;
  const pictureOf = (step: StepResult) =>
    step.observation?.drawn?.picture
      ? `/api/sites/${at.site}/forms/${at.form}/runs/${run}/picture?case=${encodeURIComponent(c.id)}&name=${step.observation.drawn.picture}`
      : undefined;
  const steps = result?.steps ?? [];
  return (
    <main tabIndex={0} className="overflow-y-auto bg-panel lg:h-full">
      <div className="border-b border-line px-5 py-3">
        <p className="text-[12px] text-soft">
          <Link className="link" to={`${base}/cases?case=${encodeURIComponent(c.id)}`}>
            {say.case.backToTheScale}
          </Link>{" "}
          · {worded(c.technique)} · {driver === "browser" ? say.case.inTheBrowser : say.case.overHttp} ·{" "}
          <span className="value">{c.id}</span>
          {run ? say.case.run(run) : ""}
          {result && result.attempt > 1 ? say.case.try(result.attempt) : ""}
        </p>
        <div className="flex flex-wrap items-center justify-between gap-x-4 gap-y-2 md:flex-nowrap">
          <div className="flex items-center gap-2">
            <Tick verdict={result?.verdict as Verdict} height={24} />
            <div>
              <h2 className="text-[18px] leading-tight">{result?.headline ?? say.case.notRunYet}</h2>
              <p>{c.title}</p>
              {twin && (
                <p className="text-[12.5px]">
                  {say.case.theSame} {twin.driver === "browser" ? say.case.inTheBrowser : say.case.overHttp}:{" "}
                  <Link
                    className="link"
                    to={`${base}/case?id=${encodeURIComponent(twin.case)}${run ? `&run=${run}` : ""}`}
                  >
                    {twin.headline ?? worded("never run")}
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
              {say.case.downloadRequestsHar}
            </a>
          )}
          <button
            type="button"
            className="button"
            disabled={start.isPending}
            onClick={() => start.mutate({ cases: [c.id] }, { onSuccess: () => go(`${base}/run`) })}
          >
            {say.case.runOnlyThisCase}
          </button>
        </div>
        {start.isError && <Trouble error={start.error} />}
      </div>
      {steps.length === 0 && (
        <p className="px-5 py-4">
          {say.case.expected} {c.steps.at(-1)?.expect}
          {say.case.covers} {c.covers.map((x) => [x.kind, x.of, x.point].filter(Boolean).join(" ")).join(", ")}.
        </p>
      )}
      {bound && <Limit key={c.id} at={at} environments={environments} bound={bound} />}
      {result && <Together result={result} />}
      {result?.left_out && (
        <p className="px-5 py-2 text-[12.5px] text-soft">
          {say.case.responsesAndPicturesWereNot} {result.left_out}
          {say.case.runOnlyThisCaseTo}
        </p>
      )}
      {steps.map((s, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a case's steps are known by their order alone
        <StepBlock key={i} step={s} number={i + 1} of={steps.length} picture={pictureOf(s)} />
      ))}
    </main>
  );
}
