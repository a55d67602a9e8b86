import { verdictName } from "../api/words.gen";
import { say } from "../words";
import { Term, type TermName } from "./term";

/** A case's verdict as it is drawn. Widespread: odd only in what is odd in most cases, which is said once. */
export type Verdict = "as expected" | "odd" | "widespread" | "not observed" | "does not apply" | "to come";

/** A verdict in words. */
export const verdictWords = (v: string) =>
  v === "widespread" ? say.ui.oddOnlyAsMostAre : (verdictName[v === "to come" ? "" : v] ?? v);

/** The words for the shapes, as they stand in legends and labels. */
export const shapes: { verdict: Verdict; words: string; term?: TermName }[] = [
  { verdict: "as expected", words: say.ui.uprightAsExpected },
  { verdict: "odd", words: say.ui.slantedOdd },
  { verdict: "not observed", words: say.ui.dottedNotObserved, term: "not_observed" },
  { verdict: "to come", words: say.ui.shortNotRunYet },
  { verdict: "does not apply", words: say.ui.ringNotApplicable, term: "not_applicable" },
];

export const letterVerdict: Record<string, Verdict> = {
  e: "as expected",
  o: "odd",
  w: "widespread",
  n: "not observed",
  "-": "does not apply",
  ".": "to come",
};

/** A tick's lines within a box of the given height, its foot at x. */
export function TickMark({ verdict, x, height }: { verdict: Verdict; x: number; height: number }) {
  const top = 1;
  const foot = height - 1;
  switch (verdict) {
    case "odd": {
      const lean = height * 0.42;
      return (
        <g className="lean">
          <line
            x1={x}
            y1={foot - 2}
            x2={x + lean}
            y2={top}
            stroke="var(--odd)"
            strokeWidth={height > 16 ? 3.4 : 2.6}
            strokeLinecap="round"
          />
          <circle cx={x} cy={foot - 2} r={height > 16 ? 3.8 : 2.7} fill="var(--odd)" />
        </g>
      );
    }
    case "widespread":
      return (
        <g>
          <line x1={x} y1={top} x2={x} y2={foot} stroke="var(--ink)" strokeWidth={height > 16 ? 2 : 1.5} />
          <circle cx={x} cy={foot - 2} r={height > 16 ? 2.8 : 2} fill="var(--odd)" />
        </g>
      );
    case "not observed":
      return <line x1={x} y1={top} x2={x} y2={foot} stroke="var(--unseen)" strokeWidth={2} strokeDasharray="2.5 2" />;
    case "does not apply":
      return <circle cx={x} cy={height / 2} r={2.6} fill="none" stroke="var(--rule)" strokeWidth={1.4} />;
    case "to come":
      return (
        <line x1={x} y1={foot - Math.max(3, height * 0.3)} x2={x} y2={foot} stroke="var(--rule)" strokeWidth={1.4} />
      );
    default:
      return <line x1={x} y1={top} x2={x} y2={foot} stroke="var(--ink)" strokeWidth={height > 16 ? 2 : 1.5} />;
  }
}

/** One tick as a picture of its own. */
export function Tick({ verdict, height = 16 }: { verdict: Verdict; height?: number }) {
  const width = Math.ceil(height * 0.42) + 8;
  return (
    <svg
      width={width}
      height={height}
      viewBox={`0 0 ${width} ${height}`}
      role="img"
      aria-label={verdictWords(verdict)}
      className="shrink-0"
    >
      <TickMark verdict={verdict} x={4} height={height} />
    </svg>
  );
}

export function Legend({ widespread = false }: { widespread?: boolean }) {
  const all = widespread
    ? [...shapes, { verdict: "widespread" as const, words: say.ui.footOddOnlyAsMostAre, term: "widespread" as const }]
    : shapes;
  return (
    <ul className="flex flex-wrap gap-x-5 gap-y-1 text-[12px]" aria-label={say.ui.shapes}>
      {all.map((s) => (
        <li
          key={s.verdict}
          className={`flex items-center gap-1 ${s.verdict === "odd" ? "text-odd" : s.verdict === "not observed" ? "text-unseen" : "text-soft"}`}
        >
          <Tick verdict={s.verdict} height={14} />
          {s.term ? <Term of={s.term}>{s.words}</Term> : s.words}
        </li>
      ))}
    </ul>
  );
}
