import { say } from "../words";

/** How many findings each of the latest runs has, the oldest first. A run that did not come to its end is an outline. */
export function Trend({ runs }: { runs: { run: number; findings: number; done: number; total: number }[] }) {
  if (runs.length < 2) return null;
  const most = Math.max(1, ...runs.map((r) => r.findings));
  const worded = (r: (typeof runs)[number]) =>
    r.done < r.total ? say.ui.ofRun(r.findings, r.done, r.total) : String(r.findings);
  const words = say.ui.findingsOfTheLatestRuns(runs.length, runs.map(worded).join(", "));
  return (
    <svg width={runs.length * 7} height={20} role="img" aria-label={words}>
      <title>{words}</title>
      {runs.map((r, i) => {
        const height = r.findings === 0 ? 1.5 : 3 + (r.findings / most) * 16;
        const colour = r.findings === 0 ? "var(--rule)" : "var(--odd)";
        const part = r.done < r.total;
        return (
          <rect
            key={r.run}
            x={i * 7 + (part ? 0.5 : 0)}
            y={20 - Math.max(height, part ? 3 : 0) + (part ? 0.5 : 0)}
            width={part ? 4 : 5}
            height={Math.max(height, part ? 3 : 0) - (part ? 1 : 0)}
            fill={part ? "none" : colour}
            stroke={part ? colour : "none"}
            strokeWidth={part ? 1.4 : undefined}
            strokeDasharray={part ? "2 1" : undefined}
          />
        );
      })}
    </svg>
  );
}
