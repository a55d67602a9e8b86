import { useEffect, useState } from "react";
import type { Schemas } from "../../api/client";
import { type Edit, useEditing, usePreview } from "../../editing/edits";
import { useFormAddress } from "../../editing/form-view";
import { Cell, Choice } from "../../ui/cell";
import { caseChanges } from "../../ui/time";
import { say, worded } from "../../words";

type Rule = Schemas["RuleView"];
type Row = Schemas["ScaleRow"];
type Details = Record<string, unknown>;

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
          {rule.implied && <span className="text-[12px] text-soft">{say.rules.impliedByFieldType}</span>}
          {typed && (
            <span role="status" className="text-[12px] text-soft">
              {preview.isError ? preview.error.message : c ? caseChanges(c) : ""}
            </span>
          )}
        </span>
      </td>
      <td className="py-0.5 text-[12.5px] whitespace-nowrap">
        {rule.implied ? (
          <span className="text-soft">{say.rules.server}</span>
        ) : (
          <Choice
            label={say.rules.layerOf(rule.id)}
            value={rule.layers.join(" and ")}
            options={LAYERS.map((l) => [l.join(" and "), l.map(worded).join(", ")])}
            width="w-[86px]"
            onKeep={(v) =>
              e.apply([{ do: "set", path: `${path}.layers`, value: LAYERS.find((l) => l.join(" and ") === v) }])
            }
          />
        )}
        <span className="text-soft">{worded(rule.phase)}</span>
      </td>
      <td className="py-0.5">
        {d.message && typeof d.message === "object" ? (
          Object.entries(d.message as Record<string, string>).map(([key, says]) => (
            <span key={key} className="flex items-center gap-1">
              <span className="text-[12px] text-soft">{key}</span>
              <Cell
                label={say.rules.messageOf(rule.id, key)}
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
            label={say.rules.messageOf2(rule.id)}
            value={rule.message}
            placeholder={say.rules.anyMessage}
            wide
            {...set("message")}
          />
        )}
      </td>
      <td className="py-0.5 whitespace-nowrap">
        <Choice
          label={say.rules.placeOfTheMessageOf(rule.id)}
          value={rule.place}
          options={[
            ["field", say.rules.atTheField],
            ["summary", say.rules.inTheSummary],
            ["next_page", say.rules.onTheNextPage],
          ]}
          onKeep={(v) => e.apply(edits("place", v))}
        />
        {!rule.implied && (
          <button
            type="button"
            className="mini"
            aria-label={say.rules.remove(rule.id)}
            onClick={() => e.apply([{ do: "remove", path }])}
          >
            {say.rules.remove2}
          </button>
        )}
        {(rule.layers.includes("browser") || rule.message_on !== "") && (
          <div>
            <Choice
              label={say.rules.whenTheMessageOfComes(rule.id)}
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
  ["", say.rules.timingNotSpecified],
  ["input", say.rules.whileTyping],
  ["blur", say.rules.onLeavingTheField],
  ["submit", say.rules.onlyOnSubmitting],
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
    <Cell
      label={say.rules.ofWord(label, rule.id)}
      mono={mono}
      value={text(key)}
      placeholder={placeholder}
      {...set(key, of)}
    />
  );
  switch (rule.kind) {
    case "length":
      return (
        <>
          {input("min", say.rules.leastLength, "0", number)} {say.rules.to}{" "}
          {input("max", say.rules.greatestLength, "any", number)}
          <Choice
            label={say.rules.unitOf(rule.id)}
            value={text("in") || "characters"}
            options={["characters", "utf-16_units", "bytes", "graphemes"].map((u) => [u, worded(u)])}
            onKeep={set("in").onKeep}
          />
        </>
      );
    case "pattern":
      return (
        <>
          {say.rules.matches} {input("is", say.rules.pattern)}
        </>
      );
    case "characters":
      return (
        <>
          {say.rules.only} {input("of", say.rules.characters)}
        </>
      );
    case "range":
      return (
        <>
          {input("min", say.rules.minimum, "any")} {say.rules.to} {input("max", say.rules.maximum, "any")}{" "}
          {(text("zone") || /today|now/.test(text("min") + text("max"))) && (
            <>
              {say.rules.inWord} {input("zone", say.rules.timeZone, "UTC")}
            </>
          )}
        </>
      );
    case "step":
      return (
        <>
          {say.rules.inStepsOf} {input("by", say.rules.step, "1")} {say.rules.from} {input("from", say.rules.base, "0")}
        </>
      );
    case "decimals":
      return (
        <>
          {say.rules.atMost} {input("max", say.rules.decimals, "0", number)} {say.rules.decimals2}
        </>
      );
    case "same_as":
      return (
        <>
          {say.rules.sameAs}{" "}
          <Choice
            label={say.rules.otherFieldOf(rule.id)}
            value={text("field")}
            options={others}
            onKeep={set("field").onKeep}
          />
        </>
      );
    case "different_from":
      return (
        <>
          {say.rules.differentFrom}{" "}
          <Choice
            label={say.rules.otherFieldOf(rule.id)}
            value={text("field")}
            options={others}
            onKeep={set("field").onKeep}
          />
        </>
      );
    case "unique":
      return (
        <>
          {say.rules.uniqueIn} {input("column", say.rules.column)} {say.rules.ignoring}{" "}
          {input("ignoring", say.rules.differencesIgnored, "nothing", (v) => v.split(/[,\s]+/).filter(Boolean), false)}
        </>
      );
    case "exists_in":
      return text("column") === "" ? (
        <span>{rule.words}</span>
      ) : (
        <>
          {say.rules.existsIn} {input("column", say.rules.column)}
        </>
      );
    case "matches_secret":
      return (
        <>
          {say.rules.equalsTheStoredPasswordIn} {input("stored", say.rules.column)}
        </>
      );
    case "no_overlap":
      return (
        <>
          {say.rules.upTo}{" "}
          <Choice
            label={say.rules.fieldOfTheEndOf(rule.id)}
            value={text("to")}
            options={others}
            onKeep={set("to").onKeep}
          />{" "}
          {say.rules.doesNotOverlapWithRows} {input("table", say.rules.table)}
          {say.rules.from2} {input("begins", say.rules.columnOfTheBeginning)} {say.rules.to}{" "}
          {input("ends", say.rules.columnOfTheEnd)}
        </>
      );
    case "file":
      return (
        <>
          {say.rules.upTo} {input("max", say.rules.greatestSize, "any", number)} {say.rules.bytesOf}{" "}
          {input("types", say.rules.types, say.rules.anyType, (v) => v.split(/[,\s]+/).filter(Boolean))}
        </>
      );
    default:
      return <span>{rule.words || rule.kind}</span>;
  }
}
