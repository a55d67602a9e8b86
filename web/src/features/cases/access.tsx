import type { Techniques } from "../../api/cases";
import type { Schemas } from "../../api/client";
import { say } from "../../words";

type Path = Schemas["AccessPath"];

/** Which pages may be opened in which state of the visitor, and the paths through the states. */
export function Access({ data }: { data: Techniques }) {
  const s = data.states;
  const states = s.states;
  const pages = [...new Set(s.access.map((a) => a.page))];
  return (
    <section aria-label={say.cases.states} tabIndex={0} className="min-h-0 flex-1 overflow-auto bg-panel px-5 py-3">
      {states.length === 0 ? (
        <p className="max-w-[60ch] text-soft">{say.cases.theSiteDocumentHasNo}</p>
      ) : (
        <>
          <h2 className="text-[14px]">{say.cases.access}</h2>
          {pages.length === 0 && <p className="text-soft">{say.cases.theSiteDocumentNamesNo}</p>}
          {pages.length > 0 && (
            <div tabIndex={0} className="mt-1 overflow-x-auto">
              <table className="border-collapse text-[12.5px]">
                <caption className="sr-only">{say.cases.pagesByState}</caption>
                <thead>
                  <tr>
                    <td />
                    {states.map((st) => (
                      <th key={st} scope="col" className="px-3 py-1 text-left font-semibold">
                        {st}
                      </th>
                    ))}
                  </tr>
                </thead>
                <tbody>
                  {pages.map((p) => (
                    <tr key={p} className="border-t border-line">
                      <th scope="row" className="value py-1 pr-4 text-left font-normal">
                        {p}
                      </th>
                      {states.map((st) => {
                        const a = s.access.find((x) => x.state === st && x.page === p);
                        return (
                          <td key={st} className={`px-3 ${a?.may ? "bg-band" : "hatch"}`}>
                            <span className={a?.may ? "" : "bg-panel px-1"}>
                              {a?.may ? say.cases.opens : a?.to ? say.cases.redirectsTo(a.to) : say.cases.refused}
                            </span>
                          </td>
                        );
                      })}
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
          )}
          <p className="mt-3 text-[12.5px] text-soft">{say.cases.thesePathsAreComputedFrom}</p>
          <Paths title={say.cases.everyState} list={s.all_states} />
          <Paths title={say.cases.everyTransition} list={s.all_transitions} />
          <Paths title={say.cases.transitionsThatMustBeRefused} list={s.invalid_transitions} />
          <Paths title={say.cases.twoTransitionsInARow} list={s.pairs} />
          {(s.unreached ?? []).length > 0 && (
            <p className="mt-3">
              {say.cases.noPathReaches} {(s.unreached ?? []).join(", ")}.
            </p>
          )}
        </>
      )}
    </section>
  );
}

function Paths({ title, list }: { title: string; list: Path[] }) {
  if (list.length === 0) return null;
  return (
    <section aria-label={title} className="mt-3">
      <h2 className="text-[14px]">
        {title} <span className="font-normal text-soft">{list.length}</span>
      </h2>
      <ul className="text-[12.5px]">
        {list.map((p) => (
          <li key={p.id} className="border-t border-line py-0.5">
            {p.title} <span className="text-soft">{p.steps.map((t) => `${t.words} → ${t.to}`).join(", ")}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
