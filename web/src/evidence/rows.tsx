import type { Schemas } from "../api/client";
import { Value } from "../ui/value";
import { say, worded } from "../words";

type Change = Schemas["ObservationChange"];
type Row = Schemas["OracleRow"];
type Column = Schemas["OracleColumn"];

function words(c: Column | undefined): string {
  if (!c) return "";
  switch (c.source) {
    case "null":
      return "NULL";
    case "sequence":
      return say.evidence.aNewNumber;
    case "key of":
      return say.evidence.keyOfTheRowIn(c.value);
    case "client address":
      return say.evidence.theVisitorsAddress;
    case "hash":
      return (c.as ?? []).join(`, `) || say.evidence.saltedSlowHash;
    case "now":
      return say.evidence.now;
    case "default":
      return say.evidence.blank;
    case "any":
      return say.evidence.anything;
    default:
      if (c.kind === "checkbox") return c.value === "true" ? say.evidence.checked : say.evidence.notChecked;
      return c.value ?? "";
  }
}

/** One changed row, column by column: what was expected and what the table holds. */
export function RowsTable({ change, expected }: { change: Change; expected?: Row }) {
  const cells = change.after ?? change.before ?? [];
  const before = new Map((change.kind === "changed" ? (change.before ?? []) : []).map((c) => [c.column, c]));
  return (
    <div tabIndex={0} className="mt-2 overflow-x-auto">
      <p>
        <span className="value font-semibold">{change.table}</span>{" "}
        <span className="text-soft">
          {say.evidence.row} {change.key} {worded(change.kind)}
        </span>
      </p>
      <table className="table w-full">
        <thead>
          <tr>
            <th scope="col">{say.evidence.column}</th>
            <th scope="col">{say.evidence.expected3}</th>
            {before.size > 0 && <th scope="col">{say.evidence.before}</th>}
            <th scope="col">{say.evidence.stored}</th>
          </tr>
        </thead>
        <tbody>
          {cells.map((c) => {
            const want = expected?.columns?.find((x) => x.name === c.column);
            return (
              <tr key={c.column}>
                <td className="value whitespace-nowrap">{c.column}</td>
                <td>
                  <Value>{words(want)}</Value>
                </td>
                {before.size > 0 && (
                  <td>
                    <Value>{before.get(c.column)?.value ?? ""}</Value>
                  </td>
                )}
                <td>
                  {c.null ? <span className="text-soft">{say.evidence.nullWord}</span> : <Value>{c.value}</Value>}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
