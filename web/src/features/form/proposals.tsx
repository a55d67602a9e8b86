import { useMemo, useState } from "react";
import type { Schemas } from "../../api/client";
import { useEditing } from "../../editing/edits";

export type Proposal = Schemas["DraftProposal"];

/** What a source proposes: new things are chosen, what would overwrite something is not until the tester says so. */
export function Proposals({
  from,
  list,
  notes,
  onDone,
}: {
  from: string;
  list: Proposal[];
  notes: string[];
  onDone: () => void;
}) {
  const editing = useEditing();
  const chosenFirst = useMemo(() => new Set(list.map((p, i) => (p.chosen ? i : -1)).filter((i) => i >= 0)), [list]);
  const [chosen, setChosen] = useState(chosenFirst);
  const flip = (i: number) =>
    setChosen((old) => {
      const next = new Set(old);
      if (!next.delete(i)) next.add(i);
      return next;
    });
  const take = async () => {
    const edits = list.flatMap((p, i) => (chosen.has(i) ? p.edits : []));
    if (await editing.apply(edits, `from ${from}`)) onDone();
  };
  return (
    <div>
      {list.length === 0 && <p>Nothing new: all of it is in the document already.</p>}
      {list.length > 0 && (
        <>
          <div className="sticky top-0 z-10 flex items-center gap-2 bg-panel py-2">
            <button
              type="button"
              className="button button-lead"
              disabled={chosen.size === 0 || editing.busy}
              onClick={take}
            >
              Apply {chosen.size} of {list.length}
            </button>
            <button type="button" className="button" onClick={() => setChosen(new Set(list.keys()))}>
              All
            </button>
            <button type="button" className="button" onClick={() => setChosen(new Set())}>
              None
            </button>
          </div>
          <ul aria-label="Proposals">
            {list.map((p, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: proposals are known by their order alone
              <li key={i} className="border-t border-line py-1">
                <label className="flex gap-2">
                  <input
                    type="checkbox"
                    className="mt-1 size-4 shrink-0"
                    checked={chosen.has(i)}
                    onChange={() => flip(i)}
                  />
                  <span className="min-w-0">
                    <span className="font-semibold">{p.about}</span> <span className="break-words">{p.words}</span>
                    {p.differs && (
                      <span className="block border-l-4 border-unseen pl-2">
                        currently: <span className="break-words">{p.was}</span>
                      </span>
                    )}
                    <span className="block text-[12px] text-soft">
                      {p.from}
                      {p.sure < 1 && `, unsure (${Math.round(p.sure * 100)} %)`}
                    </span>
                  </span>
                </label>
              </li>
            ))}
          </ul>
        </>
      )}
      {notes.length > 0 && (
        <section className="mt-3 border-t border-line pt-2">
          <h3>Also found</h3>
          <ul className="mt-1 list-disc pl-5">
            {notes.map((n) => (
              <li key={n}>{n}</li>
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}
