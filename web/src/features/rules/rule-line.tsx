import { useEffect, useState } from "react";
import type { Schemas } from "../../api/client";
import { type Edit, useEditing, usePreview } from "../../editing/edits";
import { useFormAddress } from "../../editing/form-view";
import { Cell, Choice } from "../../ui/cell";
import { caseChanges } from "../../ui/time";

type Rule = Schemas["RuleView"];
type Row = Schemas["ScaleRow"];
type Details = Record<string, unknown>;

export const ruleKinds = [
  "required",
  "length",
  "pattern",
  "characters",
  "email",
  "url",
  "number",
  "range",
  "step",
  "decimals",
  "date",
  "time",
  "one_of_options",
  "must_be_checked",
  "same_as",
  "different_from",
  "unique",
  "file",
  "exists_in",
  "matches_secret",
  "no_overlap",
];

/** What a new rule of a kind starts with. */
export function begun(kind: string, field: string, other: string): Details {
  switch (kind) {
    case "length":
      return { max: 100 };
    case "pattern":
      return { is: "[A-Za-z]+" };
    case "characters":
      return { of: "a-zA-Z0-9" };
    case "range":
      return { date: { max: "today" }, time: { max: "23:59" }, datetime: { max: "now" } }[field] ?? { min: "1" };
    case "step":
      return { by: "1" };
    case "decimals":
      return { max: 2 };
    case "same_as":
    case "different_from":
      return { field: other };
    case "unique":
    case "exists_in":
      return { column: "table.column" };
    case "matches_secret":
      return { stored: "table.column" };
    case "no_overlap":
      return { to: other, table: "table", begins: "begins", ends: "ends" };
    case "file":
      return { max: 200000 };
    default:
      return {};
  }
}

const number = (v: string) => (/^\d+$/.test(v.trim()) ? Number(v) : v);

/** One rule as a sentence whose parts are edited in place; what a change would come to is said while one types. */
export function RuleLine({
  rule,
  field,
  path,
  others,
  onPreview,
}: {
  rule: Rule;
  field: string;
  path: string;
  others: string[];
  /** The field's row of scales as it would be, null when nothing is being typed. */
  onPreview: (row: Row | null) => void;
}) {
  const e = useEditing();
  const at = useFormAddress();
  const d = (rule.details ?? {}) as Details;
  const [typed, setTyped] = useState<Edit[] | null>(null);
  const preview = usePreview(at, e.base, typed);
  const row = typed === null ? null : ((preview.data?.rows ?? []).find((r) => r.id === field) ?? null);
  useEffect(() => {
    if (row) onPreview(row);
  }, [row, onPreview]);
  useEffect(() => {
    if (typed === null) onPreview(null);
  }, [typed, onPreview]);
  const edits = (key: string, value: unknown): Edit[] => {
    if (rule.implied) {
      const details = { ...d, [key]: value };
      return [{ do: "insert", path: `fields[${field}].rules`, at: -1, value: { [rule.kind]: details } }];
    }
    return [value === "" ? { do: "remove", path: `${path}.${key}` } : { do: "set", path: `${path}.${key}`, value }];
  };
  const set = (key: string, of: (v: string) => unknown = (v) => v) => ({
    onKeep: (v: string) => e.apply(edits(key, v === "" ? "" : of(v))),
    onType: (v: string | null) => setTyped(v === null || v === "" ? null : edits(key, of(v))),
  });
  const text = (key: string) => (d[key] === undefined || d[key] === null ? "" : String(d[key]));
  const c = typed && preview.data?.cases;
  return (
    <>
      <td className="px-5 py-0.5">
        <span className="flex flex-wrap items-center gap-x-1">
          <Sentence rule={rule} text={text} set={set} others={others} />
          {rule.implied && <span className="text-[12px] text-soft">implied by field type</span>}
          {typed && (
            <span role="status" className="text-[12px] text-soft">
              {preview.isError ? preview.error.message : c ? caseChanges(c) : ""}
            </span>
          )}
        </span>
      </td>
      <td className="py-0.5 text-[12.5px] whitespace-nowrap">
        {rule.implied ? (
          <span className="text-soft">server</span>
        ) : (
          <Choice
            label={`Layer of ${rule.id}`}
            value={rule.layers.join(" and ")}
            options={LAYERS.map((l) => l.join(" and "))}
            onKeep={(v) => e.apply([{ do: "set", path: `${path}.layers`, value: v.split(" and ") }])}
          />
        )}
        <span className="text-soft">{rule.phase}</span>
      </td>
      <td className="py-0.5">
        {d.message && typeof d.message === "object" ? (
          Object.entries(d.message as Record<string, string>).map(([key, says]) => (
            <span key={key} className="flex items-center gap-1">
              <span className="text-[12px] text-soft">{key}</span>
              <Cell
                label={`Message of ${rule.id}, ${key}`}
                value={says}
                wide
                onKeep={(v) =>
                  e.apply([
                    v
                      ? { do: "set", path: `${path}.message.${key}`, value: v }
                      : { do: "remove", path: `${path}.message.${key}` },
                  ])
                }
              />
            </span>
          ))
        ) : (
          <Cell
            label={`Message of ${rule.id}`}
            value={rule.message}
            placeholder="any message"
            wide
            {...set("message")}
          />
        )}
      </td>
      <td className="py-0.5 whitespace-nowrap">
        <Choice
          label={`Place of the message of ${rule.id}`}
          value={rule.place}
          options={[
            ["field", "at the field"],
            ["summary", "in the summary"],
            ["next_page", "on the next page"],
          ]}
          onKeep={(v) => e.apply(edits("place", v))}
        />
        {!rule.implied && (
          <button
            type="button"
            className="mini"
            aria-label={`Remove ${rule.id}`}
            onClick={() => e.apply([{ do: "remove", path }])}
          >
            remove
          </button>
        )}
        {(rule.layers.includes("browser") || rule.message_on !== "") && (
          <div>
            <Choice
              label={`When the message of ${rule.id} comes`}
              value={rule.message_on}
              options={COMES}
              onKeep={(v) => e.apply(edits("message_on", v))}
            />
          </div>
        )}
      </td>
    </>
  );
}

/** The combinations of layers in which a rule can be checked. */
const LAYERS = [["browser"], ["server"], ["database"], ["browser", "server"], ["browser", "server", "database"]];

// COMES are the moments at which a message may be promised to come.
export const COMES = [
  ["", "timing not specified"],
  ["input", "while typing"],
  ["blur", "on leaving the field"],
  ["submit", "only on submitting"],
] as const;

type Setter = (
  key: string,
  of?: (v: string) => unknown,
) => { onKeep: (v: string) => void; onType: (v: string | null) => void };

function Sentence({
  rule,
  text,
  set,
  others,
}: {
  rule: Rule;
  text: (key: string) => string;
  set: Setter;
  others: string[];
}) {
  const input = (key: string, label: string, placeholder = "", of?: (v: string) => unknown, mono = true) => (
    <Cell label={`${label} of ${rule.id}`} mono={mono} value={text(key)} placeholder={placeholder} {...set(key, of)} />
  );
  switch (rule.kind) {
    case "length":
      return (
        <>
          {input("min", "Least length", "0", number)} to {input("max", "Greatest length", "any", number)}
          <Choice
            label={`Unit of ${rule.id}`}
            value={text("in") || "characters"}
            options={["characters", ["utf-16_units", "UTF-16 units"], "bytes", "graphemes"]}
            onKeep={set("in").onKeep}
          />
        </>
      );
    case "pattern":
      return <>matches {input("is", "Pattern")}</>;
    case "characters":
      return <>only {input("of", "Characters")}</>;
    case "range":
      return (
        <>
          {input("min", "Minimum", "any")} to {input("max", "Maximum", "any")}{" "}
          {(text("zone") || /today|now/.test(text("min") + text("max"))) && <>in {input("zone", "Time zone", "UTC")}</>}
        </>
      );
    case "step":
      return (
        <>
          in steps of {input("by", "Step", "1")} from {input("from", "Base", "0")}
        </>
      );
    case "decimals":
      return <>at most {input("max", "Decimals", "0", number)} decimals</>;
    case "same_as":
      return (
        <>
          same as{" "}
          <Choice
            label={`Other field of ${rule.id}`}
            value={text("field")}
            options={others}
            onKeep={set("field").onKeep}
          />
        </>
      );
    case "different_from":
      return (
        <>
          different from{" "}
          <Choice
            label={`Other field of ${rule.id}`}
            value={text("field")}
            options={others}
            onKeep={set("field").onKeep}
          />
        </>
      );
    case "unique":
      return (
        <>
          unique in {input("column", "Column")} ignoring{" "}
          {input("ignoring", "Differences ignored", "nothing", (v) => v.split(/[,\s]+/).filter(Boolean), false)}
        </>
      );
    case "exists_in":
      return text("column") === "" ? <span>{rule.words}</span> : <>exists in {input("column", "Column")}</>;
    case "matches_secret":
      return <>equals the stored password in {input("stored", "Column")}</>;
    case "no_overlap":
      return (
        <>
          up to{" "}
          <Choice
            label={`Field of the end of ${rule.id}`}
            value={text("to")}
            options={others}
            onKeep={set("to").onKeep}
          />{" "}
          does not overlap with rows of {input("table", "Table")}, from {input("begins", "Column of the beginning")} to{" "}
          {input("ends", "Column of the end")}
        </>
      );
    case "file":
      return (
        <>
          up to {input("max", "Greatest size", "any", number)} bytes, of{" "}
          {input("types", "Types", "any type", (v) => v.split(/[,\s]+/).filter(Boolean))}
        </>
      );
    default:
      return <span>{rule.words || rule.kind}</span>;
  }
}
