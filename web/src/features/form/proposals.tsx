import { useMemo, useState } from "react";
import type { Schemas } from "../../api/client";
import { useEditing } from "../../editing/edits";
import { say } from "../../words";

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
    if (await editing.apply(edits, say.form.from(from))) onDone();
  };
  return (
    <div>
      {list.length === 0 && <p>{say.form.nothingNewAllOfIt}</p>}
      {list.length > 0 && (
        <>
          <div className="sticky top-0 z-10 flex items-center gap-2 bg-panel py-2">
            <button
              type="button"
              className="button button-lead"
              disabled={chosen.size === 0 || editing.busy}
              onClick={take}
            >
              {say.form.apply} {chosen.size} {say.form.ofWord} {list.length}
            </button>
            <button type="button" className="button" onClick={() => setChosen(new Set(list.keys()))}>
              {say.form.all}
            </button>
            <button type="button" className="button" onClick={() => setChosen(new Set())}>
              {say.form.none2}
            </button>
          </div>
          <ul aria-label={say.form.proposals}>
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
                        {say.form.currently} <span className="break-words">{p.was}</span>
                      </span>
                    )}
                    <span className="block text-[12px] text-soft">
                      {p.from}
                      {p.sure < 1 && say.form.unsure(Math.round(p.sure * 100))}
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
          <h3>{say.form.alsoFound}</h3>
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
