import { type KeyboardEvent, useCallback, useEffect, useMemo, useRef } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { type Depth, depths, useCase, useCases, useStart } from "../api/queries";
import { Evidence } from "../parts/evidence";
import { Kbd, typing } from "../parts/keys";
import { Trouble, Waiting } from "../parts/notice";
import type { Verdict } from "../parts/tick";
import { useWidth } from "../parts/width";
import { rowHeight, ScaleRow } from "../scale/row";
import { useAt } from "./form-frame";

export function CasesPage() {
  const at = useAt();
  const [search, setSearch] = useSearchParams();
  const depth = (depths.find((d) => d === search.get("depth")) ?? "standard") as Depth;
  const selected = search.get("case");
  const cases = useCases(at, depth);
  const start = useStart(at);
  const go = useNavigate();
  const [measure, width] = useWidth(600);
  const list = useRef<HTMLDivElement>(null);

  const change = useCallback(
    (key: string, value: string | null) =>
      setSearch(
        (old) => {
          const next = new URLSearchParams(old);
          if (value === null) next.delete(key);
          else next.set(key, value);
          return next;
        },
        { replace: true },
      ),
    [setSearch],
  );
  const select = useCallback((id: string | null) => change("case", id), [change]);
  const runThese = useCallback(
    () => start.mutate({ depth }, { onSuccess: () => go(`/sites/${at.site}/forms/${at.form}/run`) }),
    [start, depth, go, at.site, at.form],
  );

  useEffect(() => {
    const listen = (e: globalThis.KeyboardEvent) => {
      if (e.key === "Enter" && (e.ctrlKey || e.metaKey) && !start.isPending) {
        e.preventDefault();
        runThese();
      }
      if (e.key === "Escape" && !typing(e)) select(null);
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, [runThese, select, start.isPending]);

  useEffect(() => {
    if (selected)
      document
        .querySelector(`[data-tick="${CSS.escape(selected)}"]`)
        ?.closest("[data-row]")
        ?.scrollIntoView({ block: "nearest" });
  }, [selected]);

  const data = cases.data;
  const all = data?.cases;
  const verdictOf = useCallback(
    (id: string): Verdict => (all?.[id]?.verdict as Verdict | undefined) ?? "to come",
    [all],
  );
  const titleOf = useCallback(
    (id: string) => {
      const c = all?.[id];
      return c ? `${c.title}${c.headline ? ` — ${c.headline}` : ""}` : id;
    },
    [all],
  );
  /** The ticks of all rows by their first case, as the arrows walk through them. */
  const grid = useMemo(
    () => (data?.rows ?? []).map((r) => (r.scales ?? []).flatMap((s) => (s.ticks ?? []).map((t) => t.cases ?? []))),
    [data],
  );

  const latest = useRef(selected);
  useEffect(() => {
    latest.current = selected;
  }, [selected]);
  const onKey = (e: KeyboardEvent) => {
    // the address follows a moment later: the next key goes on from the last one's tick all the same
    const next = step(e.key, grid, latest.current, verdictOf);
    if (next) {
      e.preventDefault();
      latest.current = next;
      select(next);
    }
    if (e.key === "Enter" && selected && !e.ctrlKey && !e.metaKey) {
      e.preventDefault();
      go(`/sites/${at.site}/forms/${at.form}/case?id=${encodeURIComponent(selected)}`);
    }
  };

  if (cases.isPending) return <Waiting what="Computing the cases …" />;
  if (cases.isError) return <Trouble error={cases.error} again={() => cases.refetch()} />;
  const rows = data?.rows ?? [];
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_372px]">
      <main className="flex min-h-0 flex-col border-r border-line">
        <div className="flex h-[34px] shrink-0 items-center justify-between gap-3 border-b border-line px-5 text-[12.5px] text-soft">
          <span>
            {data?.order?.length ?? 0} cases
            {(data?.omitted ?? []).length > 0 && `, ${data?.omitted?.length} cannot be made`}
            {data?.run ? ` · verdicts of run ${data.run.number}` : " · never run"}
          </span>
          <span className="flex items-center gap-2">
            <Kbd>↑</Kbd>
            <Kbd>↓</Kbd> field <Kbd>←</Kbd>
            <Kbd>→</Kbd> tick
            <select
              aria-label="Depth"
              className="button"
              value={depth}
              onChange={(e) => change("depth", e.target.value)}
            >
              {depths.map((d) => (
                <option key={d}>{d}</option>
              ))}
            </select>
            <button type="button" className="button button-lead" onClick={runThese} disabled={start.isPending}>
              Run these
            </button>
            <Kbd>Ctrl</Kbd>
            <Kbd>Enter</Kbd>
          </span>
        </div>
        {start.isError && <Trouble error={start.error} />}
        {/* biome-ignore lint/a11y/useSemanticElements: the ticks within are the buttons; this is the one stop for the arrows */}
        <div
          ref={list}
          role="group"
          aria-label="Scales; arrow keys move from tick to tick"
          tabIndex={0}
          onKeyDown={onKey}
          className="min-h-0 flex-1 overflow-y-auto focus-visible:-outline-offset-2"
        >
          {rows.map((r, i) => (
            <section
              key={r.id}
              data-row={r.id}
              aria-label={r.label}
              className="grid grid-cols-[248px_minmax(0,1fr)] border-b border-line bg-panel"
              style={{ minHeight: rowHeight }}
            >
              <div className="border-r border-line px-5 py-1.5">
                <h2 className="truncate text-[14px]" title={r.label}>
                  {r.label}
                </h2>
                <p className="line-clamp-2 text-[11.5px] leading-tight text-soft" title={(r.rules ?? []).join(" · ")}>
                  {(r.rules ?? []).join(" · ")}
                </p>
              </div>
              <div className="px-4">
                <div ref={i === 0 ? measure : undefined}>
                  <ScaleRow
                    scales={r.scales ?? []}
                    width={width}
                    label={r.label}
                    verdictOf={verdictOf}
                    titleOf={titleOf}
                    selected={selected}
                    onSelect={select}
                  />
                </div>
              </div>
            </section>
          ))}
          {(data?.omitted ?? []).length > 0 && (
            <section className="px-5 py-3 text-[12.5px]">
              <h2>Cannot be made</h2>
              <ul>
                {(data?.omitted ?? []).map((o) => (
                  <li key={o.about}>
                    <span className="value">{o.about}</span>: {o.why}
                  </li>
                ))}
              </ul>
            </section>
          )}
        </div>
      </main>
      <Aside id={selected} />
    </div>
  );
}

/** The case that a key leads to from the selected one. */
export function step(
  key: string,
  grid: string[][][],
  selected: string | null,
  verdictOf: (id: string) => Verdict,
): string | null {
  const row = selected ? grid.findIndex((r) => r.some((t) => t.includes(selected))) : -1;
  const at = row < 0 ? -1 : (grid[row]?.findIndex((t) => selected !== null && t.includes(selected)) ?? -1);
  const first = (t: string[] | undefined) => t?.find((c) => verdictOf(c) === "odd") ?? t?.[0] ?? null;
  const moves = ["ArrowLeft", "ArrowRight", "ArrowUp", "ArrowDown", "Home", "End"];
  if (key === "o") {
    const flat = grid.flatMap((r) => r.flat());
    const from = selected ? flat.indexOf(selected) : -1;
    return [...flat.slice(from + 1), ...flat.slice(0, from + 1)].find((c) => verdictOf(c) === "odd") ?? null;
  }
  if (!moves.includes(key)) return null;
  if (row < 0) return first(grid[0]?.[0]);
  const line = grid[row] ?? [];
  switch (key) {
    case "ArrowLeft":
      return first(line[Math.max(0, at - 1)]);
    case "ArrowRight":
      return first(line[Math.min(line.length - 1, at + 1)]);
    case "Home":
      return first(line[0]);
    case "End":
      return first(line.at(-1));
    default: {
      const other = grid[Math.min(grid.length - 1, Math.max(0, row + (key === "ArrowUp" ? -1 : 1)))] ?? [];
      const share = line.length > 1 ? at / (line.length - 1) : 0;
      return first(other[Math.round(share * (other.length - 1))]);
    }
  }
}

function Aside({ id }: { id: string | null }) {
  const at = useAt();
  const one = useCase(at, id, 0);
  return (
    <aside tabIndex={0} aria-label="Evidence" className="min-h-0 overflow-y-auto bg-panel px-5 py-4">
      {id === null && (
        <p className="text-soft">
          Choose a tick, with the mouse or the arrow keys, to see what was sent, expected and observed.
        </p>
      )}
      {id !== null && one.isError && <Trouble error={one.error} again={() => one.refetch()} />}
      {id !== null && one.data && (
        <>
          <Evidence view={one.data} />
          <p className="mt-4">
            <Link className="link" to={`/sites/${at.site}/forms/${at.form}/case?id=${encodeURIComponent(id)}`}>
              The whole case: request, answer and rows
            </Link>
          </p>
        </>
      )}
    </aside>
  );
}
