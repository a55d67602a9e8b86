import { useState } from "react";
import { type CasesView, type Column, type Table, type Techniques, tableExpression } from "../../api/cases";
import type { FormAt } from "../../api/client";
import { useEditing, usePreview } from "../../editing/edits";
import { Tick, type Verdict } from "../../ui/tick";
import { say } from "../../words";

const signs: Record<string, string> = { yes: "yes", no: "no", either: "–" };

type Props = {
  at: FormAt;
  data: Techniques;
  cases: CasesView;
  selected: string | null;
  onSelect: (id: string) => void;
  verdictOf: (id: string) => Verdict;
};

/** Decision tables: the conditions of a rule, and what happens in each combination of them. */
export function Decisions({ at, data, cases, selected, onSelect, verdictOf }: Props) {
  const tables = data.tables;
  return (
    <div className="min-h-0 flex-1 overflow-auto bg-panel px-5 py-3">
      {tables.length === 0 && <p className="max-w-[60ch] text-soft">{say.cases.nothingToDecideThereAre}</p>}
      {tables.map((t) => (
        <DecisionTable
          key={t.id}
          at={at}
          table={t}
          cases={cases}
          selected={selected}
          onSelect={onSelect}
          verdictOf={verdictOf}
        />
      ))}
    </div>
  );
}

function DecisionTable({ at, table, cases, selected, onSelect, verdictOf }: { table: Table } & Omit<Props, "data">) {
  const editing = useEditing();
  const columns = table.columns;
  const conditions = table.conditions;
  const outcomes = [...new Set(columns.map((c) => c.outcome))];
  // two outcomes that an expression tells apart can be turned round
  const yes = outcomes.includes("asked") ? "asked" : "holds";
  const other = yes === "asked" ? say.cases.notShown : "fails";
  const editable = table.path !== undefined && columns.every((c) => c.outcome === yes || c.outcome === other);
  const [typed, setTyped] = useState<string | null>(null);
  const [turned, setTurned] = useState<Column[] | null>(null);
  const [says, setSays] = useState("");
  const edits = typed !== null && table.path ? [{ do: "set" as const, path: table.path, value: typed }] : null;
  const preview = usePreview(at, editing.base, edits);
  const shown = turned ?? columns;
  const reset = () => {
    setTyped(null);
    setTurned(null);
    setSays("");
  };
  const turn = async (i: number) => {
    const next = shown.map((c, k) => (k === i ? { ...c, outcome: c.outcome === yes ? other : yes } : c));
    if (next.every((c, k) => c.outcome === columns[k]?.outcome)) return reset();
    try {
      setTyped(await tableExpression(at, conditions, next, yes));
      setTurned(next);
      setSays("");
    } catch (e) {
      setSays(e instanceof Error ? e.message : say.cases.thisCannotBeWrittenAs);
    }
  };
  const keep = async () => {
    if (edits && (await editing.apply(edits, say.cases.decisionTableOf(table.id)))) reset();
  };
  const change = preview.data?.cases;
  return (
    <section aria-label={table.title} className="mb-6">
      <h2 className="text-[14px]">
        {table.id === "replies" ? (
          table.title
        ) : (
          <span className="text-soft">{table.id.replace(/^across\./, "").replace(/\.when$/, ", asked when")}</span>
        )}
      </h2>
      {table.path && (
        <form
          className="mt-1 flex items-center gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            keep();
          }}
        >
          <input
            aria-label={say.cases.expressionOf(table.id)}
            className="field value min-w-0 flex-1"
            value={typed ?? expressionOf(table)}
            onChange={(e) => {
              setTyped(e.target.value);
              setTurned(null);
            }}
            onKeyDown={(e) => {
              if (e.key === "Escape") {
                e.stopPropagation();
                reset();
              }
            }}
          />
          {typed !== null && (
            <>
              <button type="submit" className="button button-lead" disabled={editing.busy || preview.isError}>
                {say.cases.save}
              </button>
              <button type="button" className="button" onClick={reset}>
                {say.cases.cancel}
              </button>
            </>
          )}
        </form>
      )}
      {typed !== null && (
        <p role="status" className="mt-1 text-[12.5px]">
          {preview.isError
            ? preview.error instanceof Error && preview.error.message
            : change && say.cases.casesAddedRemovedWithAnother(change.added, change.retired, change.changed)}
        </p>
      )}
      {says && <p className="mt-1 text-unseen">{says}</p>}
      {table.limit && <p className="mt-1 text-soft">{table.limit}</p>}
      {columns.length > 0 && (
        <div tabIndex={0} className="mt-2 overflow-x-auto">
          <table className="border-collapse text-[12.5px]">
            <caption className="sr-only">{table.title}</caption>
            <tbody>
              {conditions.map((condition, i) => (
                <tr key={condition}>
                  <th
                    scope="row"
                    className="value max-w-[300px] border border-line bg-ground px-2 py-1 text-left font-normal"
                  >
                    {condition}
                  </th>
                  {shown.map((c) => (
                    <td
                      key={c.entries.join()}
                      title={c.infeasible ?? (c.entries[i] === "either" ? say.cases.theOutcomeIsTheSame : undefined)}
                      className={`w-[58px] border border-line px-1 py-1 text-center ${c.infeasible ? "hatch text-soft" : ""}`}
                    >
                      <span className={c.infeasible ? "bg-panel px-1" : ""}>{signs[c.entries[i] ?? ""]}</span>
                    </td>
                  ))}
                </tr>
              ))}
              <tr>
                <th scope="row" className="border border-line bg-ground px-2 py-1 text-left">
                  {say.cases.outcome}
                </th>
                {shown.map((c, i) => (
                  <td
                    key={c.entries.join()}
                    className={`border border-line p-0.5 text-center ${c.infeasible ? "hatch" : ""}`}
                  >
                    {editable ? (
                      <button
                        type="button"
                        className={`button w-full px-1 ${c.outcome !== columns[i]?.outcome ? "border-focus font-semibold" : "border-transparent underline decoration-rule decoration-dotted underline-offset-3"}`}
                        title={say.cases.swapTheOutcomeOfThis}
                        onClick={() => turn(i)}
                      >
                        {c.outcome}
                      </button>
                    ) : (
                      <span className="inline-block max-w-[150px] px-1">{c.outcome}</span>
                    )}
                  </td>
                ))}
              </tr>
              <tr>
                <th scope="row" className="border border-line bg-ground px-2 py-1 text-left">
                  {say.cases.caseWord}
                </th>
                {columns.map((c) => (
                  <td
                    key={c.entries.join()}
                    className={`h-[30px] border border-line text-center ${c.infeasible ? "hatch" : ""}`}
                  >
                    {c.case ? (
                      <button
                        type="button"
                        aria-label={say.cases.caseWord2(cases.cases[c.case]?.title ?? c.case)}
                        aria-pressed={selected === c.case}
                        className={`inline-flex h-6 w-full items-center justify-center ${selected === c.case ? "rounded-sm outline-2 outline-focus" : ""} ${cases.cases[c.case] ? "" : "opacity-50"}`}
                        title={cases.cases[c.case]?.title ?? say.cases.aCaseOfAGreater}
                        onClick={() => onSelect(c.case as string)}
                      >
                        <Tick verdict={verdictOf(c.case)} height={18} />
                      </button>
                    ) : (
                      <span className="bg-panel px-1 text-[11px] text-soft">{say.cases.none}</span>
                    )}
                  </td>
                ))}
              </tr>
            </tbody>
          </table>
        </div>
      )}
      <ul className="mt-1 text-[12.5px]">
        {columns
          .filter((c) => c.infeasible)
          .map((c) => (
            <li key={c.entries.join()}>
              <span className="text-soft">{say.cases.infeasible}</span>{" "}
              <span className="break-words">{c.infeasible}</span>
            </li>
          ))}
        {table.effects.map((e) => (
          <li key={e.condition}>
            <span className="value">{e.condition}</span>{" "}
            {e.why ? (
              <span className="text-soft">
                {say.cases.notShownToDecideOn} {e.why}
              </span>
            ) : (
              <>
                <span className="text-soft">{say.cases.decidesOnItsOwnBetween}</span>{" "}
                <button type="button" className="link" onClick={() => onSelect(e.holds as string)}>
                  {say.cases.thisCase}
                </button>{" "}
                <span className="text-soft">{say.cases.and}</span>{" "}
                <button type="button" className="link" onClick={() => onSelect(e.fails as string)}>
                  {say.cases.thisOne}
                </button>
              </>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** The expression as it stands in the document. A field's table is titled "label when expression". */
function expressionOf(t: Table): string {
  return t.expression ?? t.title;
}
