import { useMemo } from "react";
import { scaleName, tickLabel } from "../api/words.gen";
import { TickMark, type Verdict, verdictWords } from "../ui/tick";
import { say } from "../words";
import { type Layout, layout, type PlacedTick, type Scale } from "./layout";

const top = 30; // labels
const line = 22; // the band's height
const bottom = 17; // the scale's name
export const rowHeight = top + line + bottom;
/** The height of a row that shows no labels but those of odd ticks and of the selected one. */
export const slimHeight = 15 + line + 3;

type Props = {
  scales: Scale[];
  width: number;
  label: string;
  slim?: boolean;
  verdictOf: (id: string) => Verdict;
  titleOf: (id: string) => string;
  /** What is expected of a case, and what was found where it is odd, for those who hear a tick. */
  heardOf?: (id: string) => { expected: string; headline?: string };
  /** The ticks are cells of a grid. */
  cells?: boolean;
  selected: string | null;
  onSelect: (id: string) => void;
};

/** Of a tick that stands for several cases the most telling verdict of those that ran is drawn. */
export function worst(verdicts: Verdict[]): Verdict {
  for (const v of ["odd", "not observed", "widespread", "as expected", "to come"] as Verdict[])
    if (verdicts.includes(v)) return v;
  return "does not apply";
}

/** A tick's title; of several cases also how many there are, and how many of them never ran. */
function several(cases: string[], titleOf: (id: string) => string, verdictOf: (id: string) => Verdict): string {
  const title = titleOf(cases[0] ?? "");
  if (cases.length < 2) return title;
  const left = cases.filter((c) => verdictOf(c) === "to come").length;
  return say.scale.cases(title, cases.length, left > 0 ? say.scale.ofThemNotRun(left) : "");
}

/** Scales with their names and labels in the words of the interface's language, whose widths decide where they stand. */
const inWords = (scales: Scale[]): Scale[] =>
  scales.map((s) => ({
    ...s,
    name: scaleName(s),
    ticks: s.ticks.map((t) => ({ ...t, label: tickLabel(t) })),
  }));

/** What a tick is called: field, value, what is expected, verdict, and what is odd. */
function nameOf(row: string, value: string, verdict: Verdict, heard?: { expected: string; headline?: string }): string {
  const expected = heard ? `, ${say.scale.expected(heard.expected)}` : "";
  const odd = verdict === "odd" && heard?.headline ? `, ${heard.headline}` : "";
  return `${row}, ${value}${expected}: ${verdictWords(verdict)}${odd}`;
}

export function ScaleRow({
  scales,
  width,
  label,
  slim = false,
  verdictOf,
  titleOf,
  heardOf,
  cells = false,
  selected,
  onSelect,
}: Props) {
  const placed = useMemo(
    () => layout(inWords(scales), width, (id) => verdictOf(id) === "odd"),
    [scales, width, verdictOf],
  );
  const labelled = (t: PlacedTick) => !slim || t.cases.some((c) => c === selected || verdictOf(c) === "odd");
  return (
    <div
      className="relative overflow-hidden"
      style={{ height: slim ? slimHeight : rowHeight, width, marginTop: slim ? 0 : undefined }}
    >
      <div className="absolute inset-x-0" style={{ top: slim ? 15 - top : 0 }}>
        <Lines placed={placed} width={width} slim={slim} />
        {placed.ticks.map((t) => {
          const verdict = worst(t.cases.map(verdictOf));
          const first = t.cases.find((c) => verdictOf(c) === "odd") ?? t.cases[0] ?? "";
          const value = /^\d/.test(t.label) ? `${t.label} (${placed.scales[t.scale]?.name})` : t.label;
          const tick = (
            <TickButton
              key={`${t.scale}.${t.index}`}
              tick={t}
              name={nameOf(label, heardOf ? value : t.label, verdict, heardOf?.(first))}
              verdict={verdict}
              title={several(t.cases, titleOf, verdictOf)}
              selected={selected !== null && t.cases.includes(selected)}
              reached={cells && selected !== null && t.cases.includes(selected)}
              labelled={labelled(t)}
              onSelect={() => onSelect(first)}
            />
          );
          if (!cells) return tick;
          return (
            // biome-ignore lint/a11y/useFocusableInteractive: the button within is what has the focus
            // biome-ignore lint/a11y/useSemanticElements: the ticks stand on a scale, not in a table
            <span key={`${t.scale}.${t.index}`} role="gridcell">
              {tick}
            </span>
          );
        })}
      </div>
    </div>
  );
}

function Lines({ placed, width, slim }: { placed: Layout; width: number; slim: boolean }) {
  const base = top + line;
  return (
    <svg width={width} height={rowHeight} className="absolute inset-0" aria-hidden="true">
      <defs>
        <pattern id="hatch" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1="0" y1="0" x2="0" y2="7" stroke="var(--hatch)" strokeWidth="1.6" />
        </pattern>
      </defs>
      {placed.scales.map((s) => (
        <g key={s.name}>
          <rect x={s.from} y={top + 3} width={s.to - s.from} height={line - 3} fill="url(#hatch)" />
          {s.bands.map((b) => (
            <g key={b.from}>
              <rect x={b.from} y={top + 2} width={b.to - b.from} height={line - 2} fill="var(--band)" />
              <path
                d={`M${b.from + 5} ${top + 2}H${b.from}V${base}H${b.from + 5}M${b.to - 5} ${top + 2}H${b.to}V${base}H${b.to - 5}`}
                fill="none"
                stroke="var(--edge)"
                strokeWidth="2"
              />
            </g>
          ))}
          <line x1={s.from} y1={base} x2={s.to} y2={base} stroke="var(--rule)" strokeWidth="1.2" />
          {s.breaks.map((x) => (
            <g key={x}>
              <rect x={x - 2.5} y={base - 3} width="5" height="6" fill="var(--panel)" />
              <path d={`M${x - 4} ${base + 4}l3 -8M${x + 1} ${base + 4}l3 -8`} stroke="var(--rule)" strokeWidth="1.2" />
            </g>
          ))}
          <text x={(s.from + s.to) / 2} y={base + 13} textAnchor="middle" fontSize="11.5" fill="var(--soft)">
            {!slim && s.to - s.from > s.name.length * 5.2 ? s.name : ""}
          </text>
        </g>
      ))}
      {placed.ticks
        .filter((t) => t.level === 1 && !slim)
        .map((t) => (
          <line key={`${t.scale}.${t.index}`} x1={t.x} y1={15} x2={t.x} y2={top} stroke="var(--line)" strokeWidth="1" />
        ))}
    </svg>
  );
}

type TickProps = {
  tick: PlacedTick;
  name: string;
  verdict: Verdict;
  title: string;
  selected: boolean;
  /** The Tab key reaches it. */
  reached: boolean;
  labelled: boolean;
  onSelect: () => void;
};

function TickButton({ tick, name, verdict, title, selected, reached, labelled, onSelect }: TickProps) {
  const half = (tick.label.length * 7.4) / 2;
  const height = line + 4;
  return (
    <>
      <button
        type="button"
        tabIndex={reached ? 0 : -1}
        data-tick={tick.cases[0]}
        aria-label={name}
        aria-pressed={selected}
        title={title}
        onClick={onSelect}
        className={`absolute w-6 ${selected ? "z-10 rounded-sm outline-2 outline-focus" : ""}`}
        style={{ left: tick.x - 12, top: top - 3, height: height + 3 }}
      >
        <svg width="24" height={height + 3} aria-hidden="true">
          <g transform="translate(0 1)">
            <TickMark verdict={verdict} x={12 - (verdict === "odd" ? 4 : 0)} height={height} />
          </g>
        </svg>
      </button>
      {labelled && (tick.level >= 0 || selected) && (
        <span
          aria-hidden="true"
          className={`value pointer-events-none absolute whitespace-pre text-[12px] leading-[15px] ${verdict === "odd" ? "font-bold text-odd" : "text-ink"} ${tick.level < 0 ? "z-20 bg-panel px-0.5" : ""}`}
          style={{ left: tick.level < 0 ? tick.x - half : tick.labelX, top: tick.level === 1 ? 0 : 14 }}
        >
          {tick.label}
        </span>
      )}
    </>
  );
}
