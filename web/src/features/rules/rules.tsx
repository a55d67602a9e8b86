import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { useCases, usualPlan } from "../../api/cases";
import type { FormAt } from "../../api/client";
import { api, need, type Schemas } from "../../api/client";
import { fieldKindName, ruleKindName } from "../../api/words.gen";
import { EditBar, useEditing } from "../../editing/edits";
import { useFormAddress, useFormView } from "../../editing/form-view";
import { stepsText } from "../../editing/names";
import { begun, ruleKinds } from "../../editing/new-rule";
import { ScaleRow } from "../../scale/row";
import { Cell, Choice } from "../../ui/cell";
import { Term } from "../../ui/term";
import { Views } from "../../ui/toolbar";
import { say, worded } from "../../words";
import { ClauseBuilder } from "./clauses";
import { Layers } from "./layers";
import { COMES, RuleLine } from "./rule-line";

type Field = Schemas["FieldView"];
type Contradiction = Schemas["ContradictionContradiction"];

function useContradictions(at: FormAt, revision: number) {
  return useQuery({
    queryKey: ["contradictions", at.site, at.form, revision],
    placeholderData: (before) => before,
    queryFn: () => need(api.GET("/api/sites/{site}/forms/{form}/contradictions", { params: { path: at } })),
  });
}

/** What each field promises, edited in place, with contradictions where they are; or layer by layer, side by side. */
export function RulesPage() {
  const f = useFormView();
  const at = useFormAddress();
  const [search, setSearch] = useSearchParams();
  const view = search.get("view") ?? "rules";
  const found = useContradictions(at, f.brief.revision);
  const list = found.data?.contradictions ?? [];
  const wrong = list.filter((c) => !c.note).length;
  return (
    <div className="flex min-h-full flex-col lg:h-full">
      <EditBar>
        <Views
          label={say.rules.whatIsShown}
          views={[
            ["rules", say.rules.rules],
            ["layers", say.rules.compareLayers],
          ]}
          shown={view}
          show={(name) => setSearch(name === "rules" ? {} : { view: name }, { replace: true })}
        />
        <span className={wrong > 0 ? "font-semibold text-unseen" : ""}>
          {found.data && (wrong === 0 ? say.rules.noContradictions : say.rules.contradiction(wrong))}
          {list.length > wrong && say.rules.note(list.length - wrong)}
        </span>
      </EditBar>
      <main tabIndex={0} className="min-h-0 flex-1 overflow-auto bg-panel">
        {view === "layers" ? (
          <Layers at={at} data={found.data} />
        ) : (
          <>
            <General list={list.filter((c) => !c.field)} />
            <Rules fields={f.fields} found={list} at={at} />
            <Across />
            <Ends />
          </>
        )}
      </main>
    </div>
  );
}

function General({ list }: { list: Contradiction[] }) {
  if (list.length === 0) return null;
  return (
    <div className="border-b border-line px-5 py-2">
      <Contradictions list={list} />
    </div>
  );
}

/** Contradictions with their proof, where they are. */
function Contradictions({ list }: { list: Contradiction[] }) {
  return list.map((c) => (
    <div
      key={c.kind + c.path + (c.other ?? "")}
      className={`my-1 border-l-4 pl-2 ${c.note ? "border-line" : "border-unseen"}`}
    >
      <p>
        <strong className={c.note ? "text-soft" : "text-unseen"}>
          {c.note ? say.rules.note2 : c.undecided ? say.rules.possibleContradiction : say.rules.contradiction2}:
        </strong>{" "}
        {c.words}
      </p>
      <p className="text-[12.5px] text-soft">
        {c.proof}. {c.remedy[0]?.toUpperCase()}
        {c.remedy.slice(1)}.{c.other && <span className="value"> {c.other}</span>}
      </p>
    </div>
  ));
}

function Rules({ fields, found, at }: { fields: Field[]; found: Contradiction[]; at: FormAt }) {
  const cases = useCases(at, { ...usualPlan, depth: "quick" });
  const rows = new Map((cases.data?.rows ?? []).map((r) => [r.id, r]));
  const ids = fields.map((x) => x.id);
  const shown = fields.filter((x) => x.kind !== "hidden" && x.kind !== "honeypot" && x.kind !== "readonly");
  return (
    <table className="w-full min-w-[980px] table-fixed border-collapse">
      <caption className="sr-only">{say.rules.rulesByField}</caption>
      <thead className="sticky top-0 z-10 bg-ground text-left text-[12px] text-soft">
        <tr>
          <th scope="col" className="w-[248px] border-r border-line px-5 py-1 font-semibold">
            {say.rules.field}
          </th>
          <th scope="col" className="w-[34%] px-5 py-1 font-semibold">
            {say.rules.rule}
          </th>
          <th scope="col" className="w-[142px] py-1 font-semibold">
            <Term of="layer">{say.rules.layerPhase}</Term>
          </th>
          <th scope="col" className="py-1 font-semibold">
            {say.rules.errorMessage}
          </th>
          <th scope="col" className="w-[194px] py-1 pr-3 font-semibold">
            {say.rules.whereAndWhen}
          </th>
        </tr>
      </thead>
      {shown.map((x) => (
        <FieldRules
          key={x.id}
          field={x}
          row={rows.get(x.id)}
          found={found.filter((c) => c.field === x.id)}
          others={ids.filter((id) => id !== x.id)}
        />
      ))}
    </table>
  );
}

function FieldRules({
  field,
  row,
  found,
  others,
}: {
  field: Field;
  row?: Schemas["ScaleRow"];
  found: Contradiction[];
  others: string[];
}) {
  const e = useEditing();
  const rules = field.rules;
  const [would, setWould] = useState<Schemas["ScaleRow"] | null>(null);
  const scales = ((would ?? row)?.scales ?? []).slice(0, 1);
  // whoever comes from a finding begins at its field
  const [search] = useSearchParams();
  const sought = search.get("field") === field.id;
  const head = useRef<HTMLTableSectionElement>(null);
  useEffect(() => {
    if (!sought) return;
    head.current?.scrollIntoView({ block: "center" });
    head.current?.querySelector<HTMLElement>("input, select, button")?.focus();
  }, [sought]);
  return (
    <tbody
      ref={head}
      className={`border-t border-line ${sought ? "outline-2 -outline-offset-2 outline-rule" : ""}`}
      aria-label={field.label}
    >
      {rules.map((r, i) => (
        <tr key={r.id} className="align-top">
          {i === 0 && <FieldHead field={field} span={rules.length + 1} scales={scales} />}
          <RuleLine
            rule={r}
            field={field.id}
            path={`fields[${field.id}].rules[${r.id.slice(field.id.length + 1)}]`}
            others={others}
            onPreview={setWould}
          />
        </tr>
      ))}
      <tr>
        {rules.length === 0 && <FieldHead field={field} span={1} scales={scales} />}
        <td colSpan={4} className="px-5 pb-1">
          <Contradictions list={found} />
          <Choice
            label={say.rules.addARuleFor(field.label)}
            width="text-soft"
            value=""
            first={say.rules.addARule}
            options={ruleKinds.map((k) => [k, ruleKindName[k] ?? k] as const)}
            onKeep={(kind) =>
              e.apply([
                {
                  do: "insert",
                  path: `fields[${field.id}].rules`,
                  at: -1,
                  value: { [kind]: begun(kind, field.kind, others[0] ?? "") },
                },
              ])
            }
          />
        </td>
      </tr>
    </tbody>
  );
}

function FieldHead({ field, span, scales }: { field: Field; span: number; scales: Schemas["ScaleScale"][] }) {
  return (
    <th scope="rowgroup" rowSpan={span} className="border-r border-line px-5 py-1.5 text-left align-top">
      <span className="text-[14px]">{field.label}</span>
      <span className="block text-[12px] font-normal text-soft">
        {fieldKindName[field.kind] ?? field.kind}
        {field.normalize.length > 0 && say.rules.beforeItsRules(stepsText(field.normalize))}
      </span>
      {field.options.length > 0 && (
        <span className="block text-[12px] font-normal text-soft">{field.options.join(" · ")}</span>
      )}
      {scales.length > 0 && (
        <span className="-ml-2 block font-normal" aria-hidden="true">
          <ScaleRow
            scales={scales}
            width={224}
            label=""
            verdictOf={() => "to come"}
            titleOf={() => ""}
            selected={null}
            onSelect={() => {}}
          />
        </span>
      )}
    </th>
  );
}

/** Rules over several fields, as expressions or as clauses. */
function Across() {
  const f = useFormView();
  const e = useEditing();
  const [fresh, setFresh] = useState("");
  const list = f.across;
  return (
    <section aria-label={say.rules.acrossFields} className="border-t border-line px-5 py-2">
      <h2 className="text-[14px]">{say.rules.acrossFields}</h2>
      {list.map((r) => {
        const path = `across[${r.id.replace(/^across\./, "")}]`;
        return (
          <div key={r.id} className="border-t border-line py-1">
            <div className="flex flex-wrap items-center gap-2">
              <Cell
                label={say.rules.expressionOf(r.id)}
                mono
                value={r.words}
                onKeep={(v) => e.apply([{ do: "set", path: `${path}.must_hold`, value: v }])}
              />
              <span className="text-soft">{say.rules.message}</span>
              <Cell
                label={say.rules.messageOf2(r.id)}
                value={r.message}
                placeholder={say.rules.anyMessage}
                onKeep={(v) => e.apply([{ do: "set", path: `${path}.message`, value: v }])}
              />
              <button
                type="button"
                className="mini"
                aria-label={say.rules.remove(r.id)}
                onClick={() => e.apply([{ do: "remove", path }])}
              >
                {say.rules.remove2}
              </button>
            </div>
            <ClauseBuilder
              expression={r.words}
              fields={f.fields}
              onChange={(v) => e.apply([{ do: "set", path: `${path}.must_hold`, value: v }])}
            />
          </div>
        );
      })}
      <details className="mt-1">
        <summary className="cursor-pointer text-soft">{say.rules.addARuleAcrossFields}</summary>
        <ClauseBuilder expression={fresh} fields={f.fields} onChange={setFresh} open />
        <div className="mt-1 flex gap-2">
          <input
            aria-label={say.rules.newExpression}
            className="field value w-[420px]"
            value={fresh}
            placeholder={say.rules.plots2HelperYes}
            onChange={(ev) => setFresh(ev.target.value)}
          />
          <button
            type="button"
            className="button"
            disabled={!fresh}
            onClick={async () => {
              if (await e.apply([{ do: "insert", path: "across", at: -1, value: { must_hold: fresh } }])) setFresh("");
            }}
          >
            {say.rules.add}
          </button>
        </div>
      </details>
    </section>
  );
}

type Doc = {
  phases?: string;
  rejected?: Record<string, unknown>;
  accepted?: Record<string, unknown> & { reply?: { when?: string; text?: string; otherwise?: string }[] };
};

/** What follows a rejection and acceptance. */
function Ends() {
  const f = useFormView();
  const e = useEditing();
  const doc = (f.document ?? {}) as Doc;
  const rejected = doc.rejected ?? {};
  const accepted = doc.accepted ?? {};
  const put = (path: string) => (v: string) =>
    e.apply([v === "" ? { do: "remove", path } : { do: "set", path, value: /\.status$/.test(path) ? Number(v) : v }]);
  const cell = (of: Record<string, unknown>, path: string, label: string, placeholder = say.rules.notSpecified) => {
    const v = of[path.split(".").at(-1) ?? ""];
    return <Cell label={label} value={v === undefined ? "" : String(v)} placeholder={placeholder} onKeep={put(path)} />;
  };
  const replies = accepted.reply ?? [];
  return (
    <div className="grid grid-cols-2 gap-8 border-t border-line px-5 py-3">
      <section aria-label={say.rules.afterARejection}>
        <h2 className="text-[14px]">{say.rules.afterARejection}</h2>
        <dl className="grid grid-cols-[110px_minmax(0,1fr)] items-center gap-y-0.5">
          <dt className="text-soft">{say.rules.status}</dt>
          <dd>{cell(rejected, "rejected.status", say.rules.statusOfARejection)}</dd>
          <dt className="text-soft">{say.rules.redirectsTo}</dt>
          <dd>{cell(rejected, "rejected.to", say.rules.targetOfARejection, say.rules.theFormAgain)}</dd>
          <dt className="text-soft">{say.rules.messages}</dt>
          <dd>
            <Choice
              label={say.rules.placeOfMessages}
              value={String(rejected.place ?? "field")}
              options={[
                ["field", say.rules.atTheirFields],
                ["summary", say.rules.inTheSummary],
                ["next_page", say.rules.onTheNextPage],
              ]}
              onKeep={put("rejected.place")}
            />
            <Choice
              label={say.rules.whichMessages}
              value={String(rejected.report ?? "every_failing_rule")}
              options={[
                ["every_failing_rule", say.rules.everyFailingRule],
                ["first_of_each_field", say.rules.firstOfEachField],
                ["first_of_all", say.rules.firstOfAll],
              ]}
              onKeep={put("rejected.report")}
            />
            <Choice
              label={say.rules.whenThePagesOwnMessages}
              value={String(rejected.message_on ?? "")}
              options={COMES}
              onKeep={(v) =>
                e.apply([
                  v === ""
                    ? { do: "remove", path: "rejected.message_on" }
                    : { do: "set", path: "rejected.message_on", value: v },
                ])
              }
            />
          </dd>
          <dt className="text-soft">{say.rules.valuesKept}</dt>
          <dd>
            <Choice
              label={say.rules.valuesKept2}
              value={String(rejected.values_kept ?? "")}
              options={[
                ["", say.rules.notSpecified],
                ["all_but_secrets", say.rules.allButSecrets],
                ["none", say.rules.none],
              ]}
              onKeep={(v) =>
                e.apply([
                  v === ""
                    ? { do: "remove", path: "rejected.values_kept" }
                    : { do: "set", path: "rejected.values_kept", value: v },
                ])
              }
            />
            <label className="ml-2">
              <input
                type="checkbox"
                checked={rejected.linked === true}
                onChange={(ev) => e.apply([{ do: "set", path: "rejected.linked", value: ev.target.checked }])}
              />{" "}
              {say.rules.eachFieldIsLinkedTo}
            </label>
          </dd>
          <dt className="text-soft">{say.rules.phases}</dt>
          <dd>
            <Choice
              label={say.rules.phases2}
              value={doc.phases ?? "in_order"}
              options={[
                ["in_order", say.rules.inOrder],
                ["together", worded("together")],
              ]}
              onKeep={(v) => e.apply([{ do: "set", path: "phases", value: v }])}
            />
          </dd>
        </dl>
      </section>
      <section aria-label={say.rules.afterAcceptance}>
        <h2 className="text-[14px]">{say.rules.afterAcceptance}</h2>
        <dl className="grid grid-cols-[110px_minmax(0,1fr)] items-center gap-y-0.5">
          <dt className="text-soft">{say.rules.status}</dt>
          <dd>{cell(accepted, "accepted.status", say.rules.statusOfAcceptance)}</dd>
          <dt className="text-soft">{say.rules.redirectsTo}</dt>
          <dd>{cell(accepted, "accepted.to", say.rules.targetOfAcceptance)}</dd>
          <dt className="text-soft">{say.rules.message}</dt>
          <dd>
            {replies.length < 2 && !replies[0]?.when ? (
              <Cell
                label={say.rules.successReply}
                wide
                value={(replies[0]?.text ?? "") + (replies[0]?.otherwise ?? "")}
                placeholder={say.rules.notSpecified}
                onKeep={put("accepted.reply")}
              />
            ) : (
              replies.map((r, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: replies are known by their order alone
                <span key={i} className="flex flex-wrap items-center gap-1">
                  <Cell
                    label={say.rules.successReply2(i + 1)}
                    value={(r.text ?? "") + (r.otherwise ?? "")}
                    onKeep={put(`accepted.reply[${i}].${r.when ? "text" : "otherwise"}`)}
                  />
                  {r.when && (
                    <>
                      <span className="text-soft">{say.rules.when}</span>
                      <Cell
                        label={say.rules.condition(i + 1)}
                        mono
                        value={r.when}
                        onKeep={put(`accepted.reply[${i}].when`)}
                      />
                    </>
                  )}
                </span>
              ))
            )}
          </dd>
          <dt className="text-soft">{say.rules.theFormIs}</dt>
          <dd>
            <Choice
              label={say.rules.theFormAfterAcceptance}
              value={String(accepted.form ?? "")}
              options={[
                ["", say.rules.notSpecified],
                ["gone", say.rules.gone],
                ["blank", say.rules.blank],
                ["filled", say.rules.filled],
              ]}
              onKeep={put("accepted.form")}
            />
          </dd>
        </dl>
        {f.stored.map((t) => (
          <div key={t.table} className="mt-2">
            <p>
              {say.rules.aRowIn} <span className="value font-semibold">{t.table}</span>
            </p>
            <p className="value text-soft">{t.columns.map((c) => `${c.name}: ${c.words}`).join(" · ")}</p>
          </div>
        ))}
      </section>
    </div>
  );
}
