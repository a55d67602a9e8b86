import { useVirtualizer } from "@tanstack/react-virtual";
import { type KeyboardEvent, useCallback, useDeferredValue, useEffect, useMemo, useRef, useState } from "react";
import { type CasesView, type Plan, useCaseEdits, useEditCases } from "../../api/cases";
import type { FormAt } from "../../api/client";
import { useStart } from "../../api/queries";
import { Trouble } from "../../ui/notice";
import { Tick, type Verdict } from "../../ui/tick";
import { say, worded } from "../../words";
import { withChange } from "./aside";
import { type Filters, filtered, type Line, type SortKey, sorted } from "./filter";
import type { Change, Changes } from "./view";

const height = 28;

const heads: [SortKey, string, string][] = [
  ["verdict", "", "w-[34px]"],
  ["title", "case", "min-w-0 flex-1"],
  ["row", "field", "w-[132px]"],
  ["technique", "technique", "w-[150px]"],
  ["expect", "expected", "w-[138px]"],
  ["depth", "depth", "w-[70px]"],
  ["tags", "tags", "w-[86px]"],
];

type Props = {
  at: FormAt;
  plan: Plan;
  data: CasesView;
  rowLabel: (id: string) => string;
  selected: string | null;
  search: URLSearchParams;
  change: Change;
  onRun: () => void;
};

/** All cases as a list: filtered, sorted, several chosen at once. Only the lines in view are in the document. */
export function List({ at, plan, data, rowLabel, selected, search, change, onRun }: Props) {
  const all = useMemo<Line[]>(
    () =>
      data.order.flatMap((id) => {
        const brief = data.cases[id];
        return brief ? [{ ...brief, id, field: rowLabel(brief.row) }] : [];
      }),
    [data, rowLabel],
  );
  const filters: Filters = useMemo(
    () => ({
      text: search.get("text") ?? "",
      row: search.get("row") ?? "",
      technique: search.get("technique") ?? "",
      verdict: search.get("verdict") ?? "",
      tag: search.get("tag") ?? "",
      driver: search.get("driver") ?? "",
    }),
    [search],
  );
  // what is typed stands at once; the lines follow when there is time
  const [text, setText] = useState(filters.text);
  const soon = useDeferredValue(text);
  const sort = (search.get("sort") ?? "") as SortKey | "";
  const down = search.get("down") === "1";
  const lines = useMemo(
    () => sorted(filtered(all, { ...filters, text: soon }), sort, down),
    [all, filters, soon, sort, down],
  );
  useEffect(() => {
    const later = setTimeout(() => text !== filters.text && change({ text }), 400);
    return () => clearTimeout(later);
  }, [text, filters.text, change]);

  const [chosen, setChosen] = useState<Set<string>>(new Set());
  const anchor = useRef(-1);
  const box = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => box.current,
    estimateSize: () => height,
    overscan: 24,
  });
  const current = selected ? lines.findIndex((l) => l.id === selected) : -1;
  // the address follows a moment later: the next key goes on from the last one's line all the same
  const latest = useRef(current);
  const moved = useRef(""); // the case that a key went to last, until the address is there
  useEffect(() => {
    if (moved.current !== "" && moved.current !== selected) return; // of an earlier key
    moved.current = "";
    latest.current = current;
  }, [current, selected]);
  const goTo = useCallback(
    (i: number) => {
      const line = lines[Math.min(lines.length - 1, Math.max(0, i))];
      if (!line) return;
      latest.current = Math.min(lines.length - 1, Math.max(0, i));
      if (line.id !== selected) moved.current = line.id;
      change({ case: line.id });
      virtual.scrollToIndex(Math.min(lines.length - 1, Math.max(0, i)), { align: "auto" });
    },
    [lines, change, virtual, selected],
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: only when the view is opened
  useEffect(() => {
    if (current >= 0) virtual.scrollToIndex(current, { align: "center" });
  }, []);
  const choose = (i: number, stretch: boolean) => {
    const line = lines[i];
    if (!line) return;
    const begun = anchor.current;
    setChosen((old) => {
      const next = new Set(old);
      if (stretch && begun >= 0) {
        for (const l of lines.slice(Math.min(begun, i), Math.max(begun, i) + 1)) next.add(l.id);
      } else if (!next.delete(line.id)) next.add(line.id);
      return next;
    });
    anchor.current = i;
  };
  const page = () => Math.max(1, Math.floor((box.current?.clientHeight ?? 400) / height) - 1);
  const onKey = (e: KeyboardEvent) => {
    if (e.ctrlKey && e.key.toLowerCase() === "a") {
      e.preventDefault();
      setChosen(new Set(lines.map((l) => l.id)));
      return;
    }
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    const from = latest.current;
    const moves: Record<string, number> = {
      ArrowDown: from + 1,
      ArrowUp: from - 1,
      PageDown: from + page(),
      PageUp: from - page(),
      Home: 0,
      End: lines.length - 1,
    };
    const to = moves[e.key];
    if (to !== undefined) {
      e.preventDefault();
      goTo(to);
      if (e.shiftKey) choose(Math.min(lines.length - 1, Math.max(0, to)), true);
    } else if (e.key === " " && from >= 0) {
      e.preventDefault();
      choose(from, e.shiftKey);
    } else if (e.key === "Escape" && chosen.size > 0) {
      e.preventDefault();
      e.stopPropagation();
      setChosen(new Set());
    }
  };
  const values = (of: (l: Line) => string | string[]) => [...new Set(all.flatMap(of))].filter((v) => v !== "").sort();
  const there = lines.filter((l) => chosen.has(l.id)).map((l) => l.id);

  return (
    <div className="flex min-h-0 flex-1 flex-col bg-panel">
      <search className="flex flex-wrap items-center gap-2 border-b border-line px-3 py-1.5 text-[12.5px]">
        <input
          type="search"
          aria-label={say.cases.filterByText}
          placeholder={say.cases.titleIdOrRule}
          className="field w-[190px]"
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
        <Pick
          label={say.cases.field}
          value={filters.row}
          all={values((l) => l.field)}
          onChange={(v) => change({ row: v })}
        />
        <Pick
          label={say.cases.technique}
          value={filters.technique}
          all={values((l) => l.technique)}
          onChange={(v) => change({ technique: v })}
        />
        <Pick
          label={say.cases.verdict}
          value={filters.verdict}
          all={values((l) => (l.skipped ? "skipped" : (l.verdict ?? "never run")))}
          onChange={(v) => change({ verdict: v })}
        />
        <Pick
          label={say.cases.driver}
          value={filters.driver}
          all={values((l) => l.driver)}
          onChange={(v) => change({ driver: v })}
        />
        <Pick
          label={say.cases.tag}
          value={filters.tag}
          all={values((l) => l.tags ?? [])}
          onChange={(v) => change({ tag: v })}
        />
        <span className="ml-auto text-soft" role="status">
          {lines.length === all.length ? all.length : say.cases.ofWord2(lines.length, all.length)}
        </span>
      </search>
      {there.length > 0 && <Chosen at={at} plan={plan} ids={there} onNone={() => setChosen(new Set())} onRun={onRun} />}
      <div className="flex min-h-0 flex-1 flex-col overflow-x-auto max-lg:h-[70vh]">
        <div className="flex min-h-0 min-w-[760px] flex-1 flex-col">
          <div className="flex border-b border-line bg-ground px-3 text-[12px] text-soft">
            {heads.map(([key, name, width]) => (
              <button
                key={key}
                type="button"
                className={`${width} truncate min-h-6 py-1 pr-2 text-left font-semibold hover:text-ink`}
                aria-label={say.cases.sortBy(name || say.cases.verdict)}
                aria-pressed={sort === key}
                onClick={() =>
                  change((now): Changes => {
                    if (now.get("sort") !== key) return { sort: key, down: null };
                    return now.get("down") ? { sort: null, down: null } : { down: "1" };
                  })
                }
              >
                {name || <Tick verdict="odd" height={13} />}
                {sort === key && (down ? " ↑" : " ↓")}
              </button>
            ))}
          </div>
          <div
            ref={box}
            role="listbox"
            aria-label={say.cases.cases2}
            aria-multiselectable="true"
            aria-activedescendant={current >= 0 ? `line-${current}` : undefined}
            tabIndex={0}
            onKeyDown={onKey}
            className="min-h-0 flex-1 overflow-y-auto focus-visible:-outline-offset-2"
          >
            {lines.length === 0 && <p className="px-5 py-4 text-soft">{say.cases.noCaseMatchesRemoveA}</p>}
            <div className="relative" style={{ height: virtual.getTotalSize() }}>
              {virtual.getVirtualItems().map((v) => {
                const l = lines[v.index];
                if (!l) return null;
                return (
                  // biome-ignore lint/a11y/useKeyWithClickEvents: the list around it takes the keys
                  // biome-ignore lint/a11y/useFocusableInteractive: the list around it has the focus
                  <div
                    key={l.id}
                    id={`line-${v.index}`}
                    data-line={v.index}
                    role="option"
                    aria-selected={chosen.has(l.id)}
                    title={l.id}
                    className={`absolute inset-x-0 flex items-center border-b border-line px-3 ${l.id === selected ? "bg-ground outline-2 -outline-offset-2 outline-focus" : ""} ${l.skipped ? "text-soft line-through decoration-rule" : ""}`}
                    style={{ height, top: v.start }}
                    onClick={(e) => {
                      if (e.ctrlKey || e.metaKey || e.shiftKey) choose(v.index, e.shiftKey);
                      change({ case: l.id });
                    }}
                  >
                    <span className="flex w-[34px] shrink-0 items-center gap-0.5">
                      {/* biome-ignore lint/a11y/useKeyWithClickEvents: Space chooses the line */}
                      {/* biome-ignore lint/a11y/noStaticElementInteractions: a place to click; the line is what is chosen */}
                      <span
                        className="flex h-6 w-5 items-center"
                        onClick={(e) => {
                          e.stopPropagation();
                          choose(v.index, e.shiftKey);
                        }}
                      >
                        <Box on={chosen.has(l.id)} />
                      </span>
                      <Tick verdict={(l.verdict as Verdict | undefined) ?? "to come"} height={15} />
                    </span>
                    <span className="min-w-0 flex-1 truncate pr-2">
                      {l.title.startsWith(`${l.field}: `) ? l.title.slice(l.field.length + 2) : l.title}
                      {l.verdict === "odd" && <span className="text-odd"> — {l.headline}</span>}
                      {l.source_expects && (
                        <span className="text-unseen">
                          {" "}
                          {say.cases.theSheetExpects} {l.source_expects}
                        </span>
                      )}
                    </span>
                    <span className="w-[132px] truncate pr-2 text-soft">{l.field}</span>
                    <span className="w-[150px] truncate pr-2 text-soft">{worded(l.technique)}</span>
                    <span className="w-[138px] truncate pr-2">{worded(l.expect)}</span>
                    <span className="w-[70px] truncate pr-2 text-soft">{worded(l.depth)}</span>
                    <span className="w-[86px] truncate">{(l.tags ?? []).join(" ")}</span>
                  </div>
                );
              })}
            </div>
          </div>
        </div>
      </div>
    </div>
  );
}

/** Whether a line is chosen, drawn: what is chosen is said by the line itself. */
function Box({ on }: { on: boolean }) {
  return (
    <svg width="14" height="14" aria-hidden="true">
      <rect x="1" y="1" width="12" height="12" rx="1.5" fill="var(--panel)" stroke="var(--rule)" strokeWidth="1.4" />
      {on && <rect x="3.5" y="3.5" width="7" height="7" fill="var(--ink)" />}
    </svg>
  );
}

function Pick({
  label,
  value,
  all,
  onChange,
}: {
  label: string;
  value: string;
  all: string[];
  onChange: (v: string | null) => void;
}) {
  if (all.length === 0 && value === "") return null;
  return (
    <select
      aria-label={say.cases.filterBy(label)}
      className={`button max-w-[150px] ${value ? "border-ink font-semibold" : ""}`}
      value={value}
      onChange={(e) => onChange(e.target.value || null)}
    >
      <option value="">
        {say.cases.any} {label}
      </option>
      {(all.includes(value) || value === "" ? all : [value, ...all]).map((v) => (
        <option key={v} value={v}>
          {worded(v)}
        </option>
      ))}
    </select>
  );
}

const nothing = { asks: "", word: "" } as const;

/** What can be done with the chosen cases. */
function Chosen({
  at,
  plan,
  ids,
  onNone,
  onRun,
}: {
  at: FormAt;
  plan: Plan;
  ids: string[];
  onNone: () => void;
  onRun: () => void;
}) {
  const start = useStart(at);
  const edit = useEditCases(at);
  const edits = useCaseEdits(at);
  const [{ asks, word }, setAsked] = useState<{ asks: "" | "off" | "tag"; word: string }>(nothing);
  const ask = (what: typeof asks) => setAsked(asks === what ? nothing : { asks: what, word: "" });
  const change = async (what: (old: { tags?: string[] | null } | undefined) => Parameters<typeof withChange>[2]) => {
    // an edit replaces the one before, so that what it must keep is asked for anew
    const now = await edits.refetch();
    if (!now.data) return;
    const known = new Map(now.data.edits.map((e) => [e.case, e]));
    const kept: Parameters<typeof edit.mutate>[0] = { from: now.data.version, edits: [], remove: [] };
    for (const id of ids) {
      const next = withChange(id, known.get(id), what(known.get(id)));
      if (next) kept.edits.push(next);
      else kept.remove?.push(id);
    }
    // another question that was asked meanwhile stays
    edit.mutate(kept, { onSuccess: () => setAsked((now) => (now.asks === asks ? nothing : now)) });
  };
  return (
    <fieldset
      className="flex flex-wrap items-center gap-2 border-b border-line bg-ground px-3 py-1.5 text-[12.5px]"
      aria-label={say.cases.chosenCases}
    >
      <strong>
        {ids.length} {say.cases.chosen}
      </strong>
      <button
        type="button"
        className="button"
        disabled={start.isPending}
        onClick={() => start.mutate({ plan, cases: ids }, { onSuccess: onRun })}
      >
        {say.cases.run}
      </button>
      <button type="button" className="button" onClick={() => ask("off")}>
        {say.cases.skip2}
      </button>
      <button type="button" className="button" onClick={() => change(() => ({ skip: "" }))}>
        {say.cases.includeAgain}
      </button>
      <button type="button" className="button" onClick={() => ask("tag")}>
        {say.cases.tag2}
      </button>
      <button type="button" className="button" onClick={onNone}>
        {say.cases.clearSelection}
      </button>
      {asks && (
        <form
          className="flex gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            if (asks === "off") change(() => ({ skip: word.trim() }));
            else change((old) => ({ tags: [...new Set([...(old?.tags ?? []), word.trim()])] }));
          }}
        >
          <input
            // biome-ignore lint/a11y/noAutofocus: it was just asked for
            autoFocus
            aria-label={asks === "off" ? say.cases.whyTheyAreSkipped : say.cases.tag3}
            placeholder={asks === "off" ? say.cases.why : say.cases.tag}
            className="field"
            value={word}
            onChange={(e) => setAsked({ asks, word: e.target.value })}
          />
          <button type="submit" className="button" disabled={word.trim() === ""}>
            {asks === "off" ? say.cases.skip : say.cases.tag3}
          </button>
        </form>
      )}
      {start.isError && <Trouble error={start.error} />}
      {edit.isError && <Trouble error={edit.error} />}
      {edits.isError && <Trouble error={edits.error} />}
    </fieldset>
  );
}
