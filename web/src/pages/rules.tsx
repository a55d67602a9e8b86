import type { Schemas } from "../api/client";
import { useFormView } from "./form-frame";

type Rule = Schemas["RuleView"];

const layers = ["browser", "server", "database"];

/** What each field promises, the message beside the rule. */
export function RulesPage() {
  const f = useFormView();
  const fields = (f.fields ?? []).filter((x) => (x.rules ?? []).length > 0 || (x.options ?? []).length > 0);
  return (
    <main tabIndex={0} className="h-full overflow-auto bg-panel">
      <table className="w-full border-collapse">
        <caption className="sr-only">Rules by field</caption>
        <thead className="sticky top-0 bg-ground text-left text-[12px] text-soft">
          <tr>
            <th scope="col" className="w-[268px] border-r border-line px-5 py-2 font-semibold">
              field
            </th>
            <th scope="col" className="w-[320px] px-5 py-2 font-semibold">
              rule
            </th>
            <th scope="col" className="w-[170px] py-2 font-semibold">
              layer, phase
            </th>
            <th scope="col" className="py-2 pr-5 font-semibold">
              message when broken
            </th>
          </tr>
        </thead>
        {fields.map((x) => (
          <tbody key={x.id} className="border-t border-line">
            {(x.rules ?? []).map((r, i) => (
              <tr key={r.id} className="align-top">
                {i === 0 && (
                  <th
                    scope="rowgroup"
                    rowSpan={(x.rules ?? []).length}
                    className="border-r border-line px-5 py-2 text-left"
                  >
                    <span className="text-[14px]">{x.label}</span>
                    <span className="block text-[12px] font-normal text-soft">
                      {x.kind}
                      {(x.sent ?? []).length > 0 && ` · ${(x.sent ?? []).join(", then ")} before its rules`}
                    </span>
                    {(x.options ?? []).length > 0 && (
                      <span className="block text-[12px] font-normal text-soft">{(x.options ?? []).join(" · ")}</span>
                    )}
                  </th>
                )}
                <RuleCells rule={r} />
              </tr>
            ))}
          </tbody>
        ))}
        {(f.across ?? []).length > 0 && (
          <tbody className="border-t border-line">
            {(f.across ?? []).map((r, i) => (
              <tr key={r.id} className="align-top">
                {i === 0 && (
                  <th
                    scope="rowgroup"
                    rowSpan={(f.across ?? []).length}
                    className="border-r border-line px-5 py-2 text-left text-[14px]"
                  >
                    Across fields
                  </th>
                )}
                <RuleCells rule={r} />
              </tr>
            ))}
          </tbody>
        )}
      </table>
      <div className="grid grid-cols-2 gap-10 border-t border-line px-5 py-4">
        <Words title="After a rejection" list={f.rejected ?? []} />
        <Words title="After acceptance" list={f.accepted ?? []} />
      </div>
    </main>
  );
}

function RuleCells({ rule }: { rule: Rule }) {
  return (
    <>
      <td className="px-5 py-1.5">
        <span className={rule.kind === "pattern" || rule.kind === "across" ? "value" : ""}>{rule.words}</span>
      </td>
      <td className="py-1.5 text-[12.5px] text-soft">
        {layers.includes(rule.layer) ? rule.layer : "server"}, {rule.phase}
      </td>
      <td className="py-1.5 pr-5">
        {rule.message ? `“${rule.message}”` : <span className="text-soft">some message</span>}
        <span className="text-[12px] text-soft">
          {" "}
          {rule.place === "field" ? "at the field" : `in the ${rule.place}`}
        </span>
      </td>
    </>
  );
}

function Words({ title, list }: { title: string; list: string[] }) {
  return (
    <section>
      <h2 className="text-[14px]">{title}</h2>
      <ul className="mt-1">
        {list.map((w) => (
          <li key={w}>{w}</li>
        ))}
        {list.length === 0 && <li className="text-soft">nothing is promised</li>}
      </ul>
    </section>
  );
}
