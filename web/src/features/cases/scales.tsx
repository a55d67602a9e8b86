import { type KeyboardEvent, useEffect, useMemo, useRef } from "react";
import type { CasesView } from "../../api/cases";
import type { Schemas } from "../../api/client";
import { rowHeight, ScaleRow, slimHeight } from "../../scale/row";
import type { Verdict } from "../../ui/tick";
import { useWidth } from "../../ui/width";
import { say } from "../../words";
import { step } from "./step";

type Row = Schemas["ScaleRow"];

/** From so many rows on each is one line, until it is opened. */
const many = 14;

type Props = {
  data: CasesView;
  selected: string | null;
  open: string[];
  oddFirst: boolean;
  verdictOf: (id: string) => Verdict;
  titleOf: (id: string) => string;
  heardOf: (id: string) => { expected: string; headline?: string };
  onSelect: (id: string) => void;
  onOpen: (rows: string[]) => void;
  onEnter: (id: string) => void;
};

/** Each field's accepted and rejected inputs on its scales; an opened row has one line per scale. */
export function Scales({
  data,
  selected,
  open,
  oddFirst,
  verdictOf,
  titleOf,
  heardOf,
  onSelect,
  onOpen,
  onEnter,
}: Props) {
  const [measure, width] = useWidth(600);
  const rows = useMemo(() => {
    const all = data.rows;
    if (!oddFirst) return all;
    const odd = (r: Row) => r.scales.some((s) => s.ticks.some((t) => t.cases.some((c) => verdictOf(c) === "odd")));
    return [...all.filter(odd), ...all.filter((r) => !odd(r))];
  }, [data.rows, oddFirst, verdictOf]);
  const slim = rows.length >= many;
  /** The ticks of all lines, as the arrows walk through them. */
  const grid = useMemo(
    () =>
      rows.flatMap((r) => {
        const scales = r.scales.map((s) => s.ticks.map((t) => t.cases));
        return open.includes(r.id) ? scales : [scales.flat()];
      }),
    [rows, open],
  );
  useEffect(() => {
    if (selected)
      document
        .querySelector(`[data-tick="${CSS.escape(selected)}"]`)
        ?.closest("[data-row]")
        ?.scrollIntoView({ block: "nearest" });
  }, [selected]);

  // the arrows and `o` work at once, unless something else was gone to
  const group = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (document.activeElement !== document.body) return;
    const chosen = group.current?.querySelector<HTMLElement>('[data-tick][aria-pressed="true"]');
    (chosen ?? group.current)?.focus({ preventScroll: true });
  }, []);

  const latest = useRef(selected);
  useEffect(() => {
    latest.current = selected;
  }, [selected]);
  const flip = (id: string) => onOpen(open.includes(id) ? open.filter((o) => o !== id) : [...open, id]);
  // the focus goes along with what is chosen, where it was in the scales
  useEffect(() => {
    const inside = document.activeElement;
    if (!selected || !group.current?.contains(inside)) return;
    if (inside !== group.current && !(inside as HTMLElement).dataset.tick) return;
    group.current.querySelector<HTMLElement>('[data-tick][aria-pressed="true"]')?.focus({ preventScroll: true });
  }, [selected]);
  // the link that opened this view keeps the focus: the arrow keys and `o` pressed on it move in the scales
  useEffect(() => {
    const listen = (e: globalThis.KeyboardEvent) => {
      const from = e.target as HTMLElement;
      if (e.ctrlKey || e.metaKey || e.altKey || !(from === document.body || from.ariaCurrent === "page")) return;
      const next = step(e.key, grid, latest.current, verdictOf);
      if (!next) return;
      e.preventDefault();
      group.current?.focus({ preventScroll: true });
      latest.current = next;
      onSelect(next);
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, [grid, verdictOf, onSelect]);
  const onKey = (e: KeyboardEvent) => {
    const onTick = e.target === e.currentTarget || (e.target as HTMLElement).dataset.tick !== undefined;
    // the address follows a moment later: the next key goes on from the last one's tick all the same
    const next = step(e.key, grid, latest.current, verdictOf);
    if (next) {
      e.preventDefault();
      latest.current = next;
      onSelect(next);
    }
    if (e.key === "Enter" && latest.current && !e.ctrlKey && !e.metaKey && onTick) {
      e.preventDefault();
      onEnter(latest.current);
    }
    const row = rows.find((r) => r.scales.some((s) => s.ticks.some((t) => t.cases.includes(latest.current ?? ""))));
    if ((e.key === "+" || e.key === "-") && row && open.includes(row.id) === (e.key === "-")) flip(row.id);
  };

  return (
    <div className="min-h-0 flex-1 overflow-y-auto">
      {/* biome-ignore lint/a11y/useSemanticElements: the rows are scales, not those of a table */}
      <div
        ref={group}
        role="grid"
        aria-label={say.cases.scalesArrowKeysMoveFrom}
        tabIndex={selected ? -1 : 0}
        onKeyDown={onKey}
        className="focus-visible:-outline-offset-2"
      >
        {rows.map((r, i) => {
          const opened = open.includes(r.id);
          const thin = slim && !opened;
          const lines = opened ? r.scales.map((s) => [s]) : [r.scales];
          return (
            // biome-ignore lint/a11y/useFocusableInteractive: what has the focus is in its cells
            // biome-ignore lint/a11y/useSemanticElements: a scale is no row of a table
            <div
              key={r.id}
              role="row"
              data-row={r.id}
              aria-label={r.label}
              className="grid grid-cols-1 md:grid-cols-[248px_minmax(0,1fr)] border-b border-line bg-panel"
              style={{ minHeight: thin ? slimHeight : rowHeight }}
            >
              {/* biome-ignore lint/a11y/useFocusableInteractive: its button has the focus */}
              {/* biome-ignore lint/a11y/useSemanticElements: a scale is no row of a table */}
              <div
                role="rowheader"
                className={`border-r border-line ${thin ? "flex items-center gap-2 pr-3 pl-2" : "py-1.5 pr-4 pl-2"}`}
              >
                <h2 className="flex min-w-0 items-center text-[14px]">
                  <button
                    type="button"
                    className="flex min-w-0 items-center gap-1 text-left"
                    aria-expanded={opened}
                    title={opened ? say.cases.oneLine : say.cases.oneLinePerScale}
                    onClick={() => flip(r.id)}
                  >
                    <Turn open={opened} />
                    <span className="truncate font-[650]">{r.label}</span>
                  </button>
                </h2>
                {!thin && (
                  <p
                    className={`pl-[18px] text-[11.5px] leading-tight text-soft ${opened ? "" : "line-clamp-2"}`}
                    title={r.rules.join(" · ")}
                  >
                    {r.rules.join(" · ")}
                  </p>
                )}
                {thin && <span className="ml-auto shrink-0 text-[11.5px] text-soft">{r.cases}</span>}
              </div>
              <div className="min-w-0 px-4">
                <div ref={i === 0 ? measure : undefined}>
                  {lines.map((scales) => (
                    <ScaleRow
                      key={scales[0]?.name}
                      scales={scales}
                      width={width}
                      label={r.label}
                      slim={thin}
                      verdictOf={verdictOf}
                      titleOf={titleOf}
                      heardOf={heardOf}
                      cells
                      selected={selected}
                      onSelect={onSelect}
                    />
                  ))}
                </div>
              </div>
            </div>
          );
        })}
      </div>
      {data.omitted.length > 0 && (
        <section className="px-5 py-3 text-[12.5px]">
          <h2>{say.cases.cannotBeGenerated2}</h2>
          <ul>
            {data.omitted.map((o) => (
              <li key={o.about}>
                <span className="value">{o.about}</span>: {o.why}
              </li>
            ))}
          </ul>
        </section>
      )}
      {data.stale.length > 0 && (
        <section className="px-5 py-3 text-[12.5px]">
          <h2>{say.cases.editedCasesThatNoLonger}</h2>
          <p className="text-soft">{say.cases.theirRulesHaveChangedThe}</p>
          <ul>
            {data.stale.map((id) => (
              <li key={id} className="value">
                {id}
              </li>
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}

function Turn({ open }: { open: boolean }) {
  return (
    <svg width="14" height="24" aria-hidden="true" className="shrink-0">
      <path d={open ? "M3 10l4 4 4-4" : "M5 8l4 4-4 4"} fill="none" stroke="var(--soft)" strokeWidth="1.6" />
    </svg>
  );
}
