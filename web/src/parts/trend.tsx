/** How many findings each of the latest runs has, the oldest first. */
export function Trend({ runs }: { runs: { run: number; findings: number }[] }) {
  if (runs.length < 2) return null;
  const most = Math.max(1, ...runs.map((r) => r.findings));
  const words = `findings of the latest ${runs.length} runs: ${runs.map((r) => r.findings).join(", ")}`;
  return (
    <svg width={runs.length * 7} height={20} role="img" aria-label={words}>
      <title>{words}</title>
      {runs.map((r, i) => {
        const height = r.findings === 0 ? 1.5 : 3 + (r.findings / most) * 16;
        return (
          <rect
            key={r.run}
            x={i * 7}
            y={20 - height}
            width={5}
            height={height}
            fill={r.findings === 0 ? "var(--rule)" : "var(--odd)"}
          />
        );
      })}
    </svg>
  );
}
