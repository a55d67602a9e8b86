import type { Schemas } from "../api/client";
import { count } from "../ui/time";
import { say } from "../words";

type Result = Schemas["ReportResult"];

const ms = (ns: number) => (ns < 1e6 ? say.evidence.ms((ns / 1e6).toFixed(2)) : say.evidence.ms((ns / 1e6).toFixed(1)));

/** Submissions that were released at the same moment: each from when it left until it was answered. */
export function Together({ result }: { result: Result }) {
  const about = result.together;
  if (!about) return null;
  const all = result.steps.flatMap((s, i) => {
    const o = s.observation;
    const first = o?.exchanges?.[0];
    if (!o || !first) return [];
    return [
      {
        number: i + 1,
        from: new Date(o.at).getTime(),
        took: first.took / 1e6,
        rows: o.changes.length,
        status: first.status,
        verdict: s.judgement.verdict,
      },
    ];
  });
  if (all.length === 0) return null;
  const begin = Math.min(...all.map((x) => x.from));
  const whole = Math.max(1, ...all.map((x) => x.from - begin + x.took));
  const rows = all.reduce((n, x) => n + x.rows, 0);
  const at = (t: number) => 34 + (t / whole) * 560;
  return (
    <section aria-label={say.evidence.releasedTogether} className="border-b border-line px-5 py-3">
      <h3 className="text-[14px]">
        {count(about.submissions, say.evidence.submission, say.evidence.submissions)}{" "}
        {say.evidence.releasedAtTheSameMoment} {count(rows, say.evidence.row, say.evidence.rows)} {say.evidence.written}
      </h3>
      <svg
        viewBox={`0 0 800 ${all.length * 24 + 26}`}
        className="mt-2 w-full max-w-[860px]"
        role="img"
        aria-label={all
          .map((x) =>
            say.evidence.submissionAnsweredAfterMs(
              x.number,
              x.status,
              x.took.toFixed(1),
              count(x.rows, say.evidence.row, say.evidence.rows),
            ),
          )
          .join("; ")}
      >
        {all.map((x, i) => {
          const y = 12 + i * 24;
          const odd = x.verdict === "odd";
          return (
            <g key={x.number} fill="var(--ink)" fontSize="12">
              <text x="6" y={y + 4} fill="var(--soft)">
                {x.number}
              </text>
              <line
                x1={at(x.from - begin)}
                x2={Math.max(at(x.from - begin) + 3, at(x.from - begin + x.took))}
                y1={y}
                y2={y}
                stroke={odd ? "var(--odd)" : x.rows > 0 ? "var(--edge)" : "var(--rule)"}
                strokeWidth={x.rows > 0 ? 9 : 4}
              />
              <text x="606" y={y + 4} fill={odd ? "var(--odd)" : "var(--ink)"} fontWeight={odd ? 650 : 400}>
                {x.rows > 0
                  ? say.evidence.wrote(count(x.rows, say.evidence.row, say.evidence.rows))
                  : say.evidence.rejected}
                , {x.status}
              </text>
            </g>
          );
        })}
        <line x1="34" x2="594" y1={all.length * 24 + 4} y2={all.length * 24 + 4} stroke="var(--line)" />
        <text x="34" y={all.length * 24 + 20} fontSize="12" fill="var(--soft)">
          {say.evidence.n0Ms}
        </text>
        <text x="594" y={all.length * 24 + 20} fontSize="12" fill="var(--soft)" textAnchor="end">
          {whole.toFixed(1)} {say.evidence.ms2}
        </text>
      </svg>
      <p className="mt-1 text-[12.5px] text-soft">
        {about.narrowest > 0
          ? say.evidence.madeTimesEachTimeWith(about.rounds, ms(about.narrowest))
          : say.evidence.madeUntilItWasOdd(about.rounds === 1 ? say.evidence.once : say.evidence.times(about.rounds))}
      </p>
    </section>
  );
}
