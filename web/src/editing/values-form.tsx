import type { Schemas } from "../api/client";
import { optionOf } from "./names";

type Field = Schemas["FieldView"];

/** The values of a submission by hand, field by field. */
export function ValuesForm({
  fields,
  values,
  onChange,
  messages = {},
  said = "said: ",
}: {
  fields: Field[];
  values: Record<string, string[]>;
  onChange: (id: string, list: string[]) => void;
  messages?: Record<string, string>;
  said?: string;
}) {
  return (
    <div className="grid gap-1.5">
      {fields
        .filter((f) => f.kind !== "hidden" && f.kind !== "readonly")
        .map((f) => (
          <div key={f.id} className="grid grid-cols-[minmax(0,140px)_minmax(0,1fr)] items-center gap-2">
            <label htmlFor={`value-${f.id}`} className="text-right">
              {f.label}
            </label>
            <div>
              <ValueInput field={f} list={values[f.id] ?? []} onChange={(list) => onChange(f.id, list)} />
              {messages[f.id] && (
                <p className="text-[12.5px]">
                  {said}“{messages[f.id]}”
                </p>
              )}
            </div>
          </div>
        ))}
    </div>
  );
}

function ValueInput({ field, list, onChange }: { field: Field; list: string[]; onChange: (list: string[]) => void }) {
  const id = `value-${field.id}`;
  const options = field.options.map(optionOf);
  if (field.kind === "checkbox")
    return (
      <input
        id={id}
        type="checkbox"
        className="size-4"
        checked={list.length > 0}
        onChange={(e) => onChange(e.target.checked ? [field.value || "on"] : [])}
      />
    );
  if ((field.kind === "single_choice" || field.kind === "multiple_choice") && options.length > 0)
    return (
      <input
        id={id}
        className="field value w-full"
        list={`${id}-options`}
        value={list.join(", ")}
        onChange={(e) => onChange(field.kind === "single_choice" ? [e.target.value] : e.target.value.split(/,\s*/))}
        placeholder={options.map((o) => o.value).join(" · ")}
      />
    );
  if (field.kind === "textarea")
    return (
      <textarea
        id={id}
        className="field value w-full"
        value={list[0] ?? ""}
        onChange={(e) => onChange([e.target.value])}
      />
    );
  return (
    <input id={id} className="field value w-full" value={list[0] ?? ""} onChange={(e) => onChange([e.target.value])} />
  );
}
