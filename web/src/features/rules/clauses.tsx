import type { Schemas } from "../../api/client";
import { Choice } from "../../ui/cell";
import { say } from "../../words";
import { type Clause, comparisons, joinClauses, readClauses } from "./cel";

type Field = Schemas["FieldView"];

/** Builds and reads an expression as clauses: field, comparison, value, every or some of them. */
export function ClauseBuilder({
  expression,
  fields,
  onChange,
  open = false,
}: {
  expression: string;
  fields: Field[];
  onChange: (expression: string) => void;
  open?: boolean;
}) {
  const kinds = Object.fromEntries(fields.map((f) => [f.id, f.kind]));
  const read = expression.trim() === "" ? { every: true, clauses: [] } : readClauses(expression);
  if (!read) return open ? <p className="text-soft">{say.rules.thisExpressionIsTooComplex}</p> : null;
  const write = (clauses: Clause[], every: boolean) => onChange(joinClauses(clauses, every, kinds));
  const put = (i: number, part: Partial<Clause>) =>
    write(
      read.clauses.map((c, k) => (k === i ? { ...c, ...part } : c)),
      read.every,
    );
  const first = fields.find((f) => f.kind !== "hidden" && f.kind !== "honeypot");
  return (
    <div className="flex flex-wrap items-center gap-1 text-[12.5px]">
      {read.clauses.length > 1 && (
        <Choice
          label={say.rules.howManyClausesMustHold}
          value={read.every ? "every" : "some"}
          options={[
            ["every", say.rules.allOfTheseHold],
            ["some", say.rules.anyOfTheseHolds],
          ]}
          onKeep={(v) => write(read.clauses, v === "every")}
        />
      )}
      {read.clauses.map((c, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: clauses are known by their order alone
        <span key={i} className="border border-line px-1">
          <Choice
            label={say.rules.fieldOfClause(i + 1)}
            value={c.field}
            options={fields.map((f) => [f.id, f.label] as const)}
            onKeep={(field) => put(i, { field })}
          />
          <Choice
            label={say.rules.comparisonOfClause(i + 1)}
            value={c.comparison}
            options={comparisons.map((o) => [o.sign, o.words] as const)}
            onKeep={(comparison) => put(i, { comparison: comparison as Clause["comparison"] })}
          />
          <input
            aria-label={say.rules.valueOfClause(i + 1)}
            className="cell value"
            size={Math.max(6, c.value.length + 1)}
            value={c.value}
            onChange={(e) => put(i, { value: e.target.value })}
          />
          <button
            type="button"
            className="mini"
            aria-label={say.rules.removeClause(i + 1)}
            onClick={() =>
              write(
                read.clauses.filter((_, k) => k !== i),
                read.every,
              )
            }
          >
            ×
          </button>
        </span>
      ))}
      {first && (
        <button
          type="button"
          className="mini"
          onClick={() => write([...read.clauses, { field: first.id, comparison: "==", value: "" }], read.every)}
        >
          {read.clauses.length === 0 ? say.rules.asClauses : say.rules.addAClause}
        </button>
      )}
    </div>
  );
}
