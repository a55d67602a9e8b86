import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import type { Schemas } from "../../api/client";
import { fieldKindName } from "../../api/words.gen";
import { EditBar, useEditing } from "../../editing/edits";
import { useFormAddress, useFormView } from "../../editing/form-view";
import { idOf, stepsOf, stepsText } from "../../editing/names";
import { Cell, Choice } from "../../ui/cell";
import { Term } from "../../ui/term";
import { Views } from "../../ui/toolbar";
import { say } from "../../words";
import { FromList, FromRequest, FromSchemaFile, FromText } from "./files";
import { Learn } from "./learn";
import { Revisions } from "./revisions";
import { FromPage, FromTables } from "./sources";
import { Trace } from "./trace";

type Field = Schemas["FieldView"];

export const kinds = [
  "text",
  "textarea",
  "email",
  "url",
  "tel",
  "password",
  "number",
  "date",
  "time",
  "datetime",
  "single_choice",
  "multiple_choice",
  "checkbox",
  "file",
  "hidden",
  "readonly",
  "honeypot",
];

const tools = [
  ["page", say.form.readThePage],
  ["tables", say.form.readTheTables],
  ["learn", say.learn.learn],
  ["trace", say.form.trace],
  ["schema", say.form.jsonSchema],
  ["list", say.form.listOfRules],
  ["text", say.form.text],
  ["request", say.form.recordedRequest],
  ["revisions", say.form.revisions],
] as const;

/** How the form was read: its fields in page order, and where each value goes. Ways in stand at the right. */
export function FormPage() {
  const f = useFormView();
  const at = useFormAddress();
  const [search, setSearch] = useSearchParams();
  const fields = f.fields;
  const tool = search.get("from") ?? (fields.length === 0 ? "page" : "");
  const open = (name: string) => setSearch(name ? { from: name } : {}, { replace: true });
  return (
    <div className="flex min-h-full flex-col lg:h-full">
      <EditBar>
        <Views label={say.form.sources} views={tools} shown={tool} show={(name) => open(tool === name ? "" : name)}>
          <Link className="button no-underline" to={`/sites/${at.site}/forms/${at.form}/try`}>
            {say.form.try}
          </Link>
          <Link className="button no-underline" to={`/sites/${at.site}/forms/${at.form}/document`}>
            {say.document.everything}
          </Link>
        </Views>
      </EditBar>
      <div className={`grid min-h-0 flex-1 ${tool ? "grid-cols-1 lg:grid-cols-[minmax(0,1fr)_420px]" : "grid-cols-1"}`}>
        <main tabIndex={0} className="relative min-h-0 overflow-auto bg-panel px-5 py-3">
          <Where />
          {fields.length === 0 ? (
            <div className="mt-5 max-w-lg">
              <p>{say.form.theFormHasNoFields}</p>
              {tool !== "page" && (
                <button type="button" className="button button-lead mt-2" onClick={() => open("page")}>
                  {say.form.readThePage}
                </button>
              )}
            </div>
          ) : (
            <Fields fields={fields} narrow={tool !== ""} />
          )}
          <AddField count={fields.length} />
          <StoredRows />
          <Listed title={say.form.statesOfAVisitor} list={f.states} />
          <Listed title={say.form.journeys} list={f.journeys} />
        </main>
        {tool && (
          <aside
            tabIndex={0}
            aria-label={say.form.source}
            className="min-h-0 overflow-y-auto border-l border-line bg-panel px-5 py-3"
          >
            {tool === "page" && (
              <>
                <FromPage
                  at={at}
                  page={f.page}
                  languages={f.languages}
                  first={f.fields.length === 0}
                  onDone={() => open("trace")}
                />
                {f.fields.length === 0 && f.page !== "" && (
                  <div className="mt-5 border-t border-line pt-3">
                    <Learn at={at} form={f} onLearned={() => open("learn")} onDone={() => open("")} />
                  </div>
                )}
              </>
            )}
            {tool === "tables" && <FromTables at={at} onDone={() => open("")} />}
            {tool === "learn" && <Learn at={at} form={f} onDone={() => open("")} />}
            {tool === "trace" && <Trace at={at} form={f} onDone={() => open("")} />}
            {tool === "schema" && <FromSchemaFile at={at} onDone={() => open("")} />}
            {tool === "list" && <FromList at={at} onDone={() => open("")} />}
            {tool === "request" && <FromRequest at={at} onDone={() => open("")} />}
            {tool === "text" && <FromText at={at} onDone={() => open("")} />}
            {tool === "revisions" && <Revisions at={at} newest={f.brief.revision} />}
          </aside>
        )}
      </div>
    </div>
  );
}

function Listed({ title, list }: { title: string; list: string[] }) {
  if (list.length === 0) return null;
  return (
    <section className="mt-5 max-w-3xl">
      <h2 className="text-[14px]">{title}</h2>
      <ul className="mt-1">
        {list.map((x) => (
          <li key={x} className="border-t border-line py-1">
            {x}
          </li>
        ))}
      </ul>
    </section>
  );
}

function Where() {
  const f = useFormView();
  const e = useEditing();
  const set = (path: string) => (value: string) => e.apply([{ do: "set", path, value }]);
  return (
    <dl className="grid max-w-4xl grid-cols-[90px_minmax(0,1fr)] md:grid-cols-[90px_minmax(0,1fr)_90px_minmax(0,1fr)] items-center gap-y-0.5">
      <dt className="text-soft">{say.form.page}</dt>
      <dd>
        <span className="value text-soft">{f.address}</span>
        <Cell label={say.form.page2} mono value={f.page} onKeep={set("page")} />
      </dd>
      <dt className="text-soft">{say.form.title}</dt>
      <dd>
        <Cell label={say.form.title2} value={f.brief.title} onKeep={set("title")} size={20} />
      </dd>
      <dt className="text-soft">{say.form.sendsTo}</dt>
      <dd className="flex flex-wrap items-center">
        <Choice label={say.form.method} value={f.method} options={["POST", "GET"]} onKeep={set("submit.method")} />
        <Cell label={say.form.target} mono value={f.to} onKeep={set("submit.to")} />
        <Choice
          label={say.form.encoding}
          value={f.encoding}
          options={["urlencoded", "multipart", "json"]}
          onKeep={set("submit.encoding")}
        />
      </dd>
      <dt className="text-soft">
        <Term of="token">{say.form.token}</Term>
      </dt>
      <dd>
        <Cell
          label={say.form.token2}
          mono
          value={f.tokens.join(", ")}
          placeholder={say.form.none}
          onKeep={(v) =>
            e.apply([
              v.trim()
                ? { do: "set", path: "token", value: v.split(",").map((x) => x.trim()) }
                : { do: "remove", path: "token" },
            ])
          }
        />
      </dd>
      <dt className="text-soft">
        <Term of="state">{say.form.visitorState}</Term>
      </dt>
      <dd>
        <Cell
          label={say.form.stateOfTheVisitor}
          value={f.state === "any" ? "" : f.state}
          placeholder={say.form.any}
          onKeep={set("state")}
        />
      </dd>
      <dt className="text-soft">{say.form.databasesWatched}</dt>
      <dd>
        {f.watched.join(", ") || (
          <Link className="link" to={`/sites/${f.site}/settings`}>
            {say.form.noneStoredDataCannotBe}
          </Link>
        )}
      </dd>
    </dl>
  );
}

function Fields({ fields, narrow }: { fields: Field[]; narrow: boolean }) {
  const e = useEditing();
  const set = (f: Field, key: string) => (value: unknown) =>
    e.apply([{ do: "set", path: `fields[${f.id}].${key}`, value }]);
  return (
    <table className="table mt-3 w-full">
      <caption className="sr-only">{say.form.fieldsInPageOrder}</caption>
      <thead>
        <tr>
          <th scope="col">{say.form.field}</th>
          <th scope="col">{say.form.kind}</th>
          <th scope="col">
            <Term of="request_name">{say.form.requestName}</Term>
          </th>
          {!narrow && <th scope="col">{say.form.initialValue}</th>}
          <th scope="col">
            <Term of="normalise">{say.form.serverNormalises}</Term>
          </th>
          <th scope="col">
            <Term of="stored_in">{say.form.storedIn}</Term>
          </th>
          {!narrow && (
            <th scope="col">
              <span className="sr-only">{say.form.order}</span>
            </th>
          )}
        </tr>
      </thead>
      <tbody>
        {fields.map((x, i) => (
          <tr key={x.id}>
            <td className="font-semibold">
              <Cell label={say.form.labelOf(x.id)} value={x.label} onKeep={set(x, "label")} size={14} />
            </td>
            <td className="whitespace-nowrap">
              <Choice
                label={say.form.kindOf(x.label)}
                value={x.kind}
                options={kinds.map((k) => [k, fieldKindName[k] ?? k])}
                onKeep={set(x, "kind")}
              />
              <label className="ml-1 text-[12px] text-soft">
                <input type="checkbox" checked={x.secret} onChange={(ev) => set(x, "secret")(ev.target.checked)} />{" "}
                {say.form.secret}
              </label>
            </td>
            <td>
              <Cell label={say.form.requestNameOf(x.label)} mono value={x.name} onKeep={set(x, "name")} />
            </td>
            {!narrow && (
              <td>
                <Cell
                  label={say.form.initialValueOf(x.label)}
                  mono
                  value={x.initial}
                  placeholder={say.form.blank}
                  onKeep={(v) =>
                    v ? set(x, "initial")(v) : e.apply([{ do: "remove", path: `fields[${x.id}].initial` }])
                  }
                />
              </td>
            )}
            <td>
              <Cell
                label={say.form.stepsOf(x.label)}
                value={stepsText(x.normalize)}
                placeholder={say.form.unchanged}
                onKeep={(v) =>
                  v.trim()
                    ? set(x, "normalize")(stepsOf(v))
                    : e.apply([{ do: "remove", path: `fields[${x.id}].normalize` }])
                }
              />
            </td>
            <td className="value">
              <span className="whitespace-nowrap">
                {x.columns.map((c) => (narrow ? c.slice(c.indexOf(".") + 1) : c)).join(", ") || (
                  <span className="font-sans text-soft">{say.form.notStored}</span>
                )}
              </span>
            </td>
            {!narrow && (
              <td className="whitespace-nowrap">
                <button
                  type="button"
                  className="mini"
                  aria-label={say.form.moveUp(x.label)}
                  disabled={i === 0 || e.busy}
                  onClick={() => e.apply([{ do: "move", path: `fields[${x.id}]`, at: i - 1 }])}
                >
                  ↑
                </button>
                <button
                  type="button"
                  className="mini"
                  aria-label={say.form.moveDown(x.label)}
                  disabled={i === fields.length - 1 || e.busy}
                  onClick={() => e.apply([{ do: "move", path: `fields[${x.id}]`, at: i + 1 }])}
                >
                  ↓
                </button>
                <button
                  type="button"
                  className="mini"
                  aria-label={say.form.remove(x.label)}
                  disabled={e.busy}
                  onClick={() => e.apply([{ do: "remove", path: `fields[${x.id}]` }])}
                >
                  {say.form.remove2}
                </button>
              </td>
            )}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function AddField({ count }: { count: number }) {
  const e = useEditing();
  const [name, setName] = useState("");
  return (
    <form
      className="mt-2 flex items-center gap-2"
      onSubmit={async (ev) => {
        ev.preventDefault();
        const id = idOf(name) || `field_${count + 1}`;
        const at = -1;
        if (name && (await e.apply([{ do: "insert", path: "fields", at, value: { id, name, label: name } }])))
          setName("");
      }}
    >
      <label>
        {say.form.addAFieldRequestName}{" "}
        <input className="field value" value={name} onChange={(ev) => setName(ev.target.value)} />
      </label>
      <button type="submit" className="button" disabled={!name || e.busy}>
        {say.form.add}
      </button>
    </form>
  );
}

/** The row that acceptance writes, as far as it is said. */
function StoredRows() {
  const f = useFormView();
  const e = useEditing();
  const fields = f.fields.map((x) => x.id);
  return f.stored.map((t) => (
    <section key={t.table} className="mt-5 max-w-3xl">
      <h2 className="text-[14px]">
        {say.form.whenAcceptedARowIs} <span className="value">{t.table}</span>
      </h2>
      <table className="table mt-1 w-full">
        <thead>
          <tr>
            <th scope="col">{say.form.column}</th>
            <th scope="col">{say.form.holds}</th>
            <th scope="col">{say.form.source2}</th>
          </tr>
        </thead>
        <tbody>
          {t.columns.map((c) => (
            <tr key={c.name}>
              <td className="value w-[200px]">{c.name}</td>
              <td>{c.words}</td>
              <td className="whitespace-nowrap">
                <Choice
                  label={say.form.sourceOf(c.name)}
                  value=""
                  first={say.form.changeSource}
                  options={[...fields, ...Object.keys(sources), ["-", say.form.remove2] as const]}
                  onKeep={(v) => {
                    const path = `stored[${t.table}].columns.${c.name}`;
                    if (v === "-") e.apply([{ do: "remove", path }]);
                    else e.apply([{ do: "set", path, value: sources[v] ?? { from: v } }]);
                  }}
                />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  ));
}

const sources: Record<string, unknown> = {
  "· now": { now: { within: "5s" } },
  "· NULL": { null: true },
  "· column default": { default: true },
  "· any value": { any: true },
  "· a UUID": { generated: "uuid" },
};
