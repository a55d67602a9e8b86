import type { Schemas } from "../api/client";
import { ruleKindName } from "../api/words.gen";
import { Choice } from "../ui/cell";
import { say } from "../words";
import { useEditing } from "./edits";
import { begun, ruleKinds } from "./new-rule";

type Field = Schemas["FieldView"];

/** Messages that stood at fields: each can be given to a rule of its field, or to a new one. */
export function SeenMessages({ fields, seen }: { fields: Field[]; seen: { field?: string; text: string }[] }) {
  const e = useEditing();
  const at = seen.flatMap((m) => {
    const field = fields.find((f) => f.id === m.field);
    return field ? [{ text: m.text, field, rules: field.rules.filter((r) => !r.implied && r.message !== m.text) }] : [];
  });
  const give = (field: Field, text: string, to: string) => {
    const kind = to.startsWith(fresh) ? to.slice(fresh.length) : "";
    const other = fields.find((f) => f.id !== field.id)?.id ?? "";
    return e.apply([
      kind
        ? {
            do: "insert",
            path: `fields[${field.id}].rules`,
            at: -1,
            value: { [kind]: { ...begun(kind, field.kind, other), message: text } },
          }
        : {
            do: "set",
            path: `fields[${field.id}].rules[${to.slice(field.id.length + 1)}].message`,
            value: text,
          },
    ]);
  };
  return (
    <ul className="mt-1">
      {at.map(({ text, field, rules }) => (
        <li key={`${field.id} ${text}`}>
          {say.form.messageAt(text, field.label)}{" "}
          <Choice
            label={say.form.ruleThatSays(text)}
            value=""
            first={say.form.takeAsTheMessageOf}
            options={[
              ...rules.map((r) => [r.id, ruleKindName[r.kind] ?? r.kind] as const),
              ...offered.map((k) => [fresh + k, say.form.aNewRule(ruleKindName[k] ?? k)] as const),
            ]}
            onKeep={(to) => give(field, text, to)}
          />
        </li>
      ))}
    </ul>
  );
}

/** Rules that need a table besides are made under Rules. */
const offered = ruleKinds.filter((k) => !["unique", "exists_in", "matches_secret", "no_overlap", "file"].includes(k));

/** Begins the value of a choice that makes a new rule; no id of a rule begins so. */
const fresh = "+";
