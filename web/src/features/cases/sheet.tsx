import { useEffect, useState } from "react";
import { useImportCases, useSheetText } from "../../api/cases";
import type { FormAt } from "../../api/client";
import { Trouble } from "../../ui/notice";
import { say } from "../../words";

/** Takes cases in from a tester's sheet; what each column holds is chosen, and each line's expectation is computed. */
export function SheetView({ at, onDone }: { at: FormAt; onDone: () => void }) {
  const read = useImportCases(at);
  const open = useSheetText();
  const [text, setText] = useState("");
  const [usual, setUsual] = useState(false);
  const [columns, setColumns] = useState<string[] | undefined>();
  const look = read.mutate;
  useEffect(() => {
    if (text === "") return;
    const later = setTimeout(() => look({ text, usual, columns }), 250);
    return () => clearTimeout(later);
  }, [text, usual, columns, look]);
  const v = text === "" ? undefined : read.data;
  const cases = v?.cases ?? [];
  const heads = (v?.heads ?? []).map((h, i) => ({ h, i, key: `${i} ${h}` })); // two columns may have one head
  return (
    <div className="min-h-0 flex-1 overflow-auto bg-panel px-5 py-3">
      <h2 className="text-[15px]">{say.cases.importCasesCsvXlsx}</h2>
      <p className="mt-1 max-w-[76ch] text-soft">{say.cases.csvOrTheFirstSheet}</p>
      <div className="mt-2 flex flex-wrap items-center gap-3">
        <input
          type="file"
          accept=".csv,.xlsx,text/csv,text/plain"
          aria-label={say.cases.sheetAsCsvOrXlsx}
          onChange={(e) => {
            const file = e.target.files?.[0];
            if (!file) return;
            setColumns(undefined);
            open.mutate(file, { onSuccess: setText });
          }}
        />
        <label className="flex items-center gap-1.5">
          <input type="checkbox" checked={usual} onChange={(e) => setUsual(e.target.checked)} />
          {say.cases.treatEmptyCellsAsTypical}
        </label>
      </div>
      <textarea
        aria-label={say.cases.textOfTheSheet}
        placeholder={say.cases.orPasteTheTextHere}
        className="field value mt-2 h-[92px] w-full"
        value={text}
        onChange={(e) => {
          setColumns(undefined);
          setText(e.target.value);
        }}
      />
      {open.isError && <Trouble error={open.error} />}
      {text !== "" && read.isError && <Trouble error={read.error} />}
      {v && (
        <>
          <div tabIndex={0} className="mt-2 overflow-x-auto">
            <table className="border-collapse text-[12.5px]">
              <caption className="sr-only">{say.cases.columns}</caption>
              <thead>
                <tr>
                  {heads.map(({ h, key }) => (
                    <th
                      key={key}
                      scope="col"
                      className="max-w-[160px] truncate border border-line bg-ground px-2 py-1 text-left font-semibold"
                      title={h}
                    >
                      {h}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                <tr>
                  {heads.map(({ h, i, key }) => (
                    <td key={key} className="border border-line p-0.5">
                      <select
                        aria-label={say.cases.column(h)}
                        className="button max-w-[150px]"
                        value={v.columns[i] ?? ""}
                        onChange={(e) => {
                          const next = [...v.columns];
                          next[i] = e.target.value;
                          setColumns(next);
                        }}
                      >
                        <option value="">{say.cases.ignore}</option>
                        {v.meanings.map((m) => (
                          <option key={m}>{m}</option>
                        ))}
                      </select>
                    </td>
                  ))}
                </tr>
                <tr>
                  {heads.map(({ i, key }) => (
                    <td key={key} className="value max-w-[160px] truncate border border-line px-2 text-soft">
                      {v.first[i]}
                    </td>
                  ))}
                </tr>
              </tbody>
            </table>
          </div>
          <div className="mt-3 flex items-center gap-3">
            <button
              type="button"
              className="button button-lead"
              disabled={read.isPending || cases.length === 0}
              onClick={() => read.mutate({ text, usual, columns: v.columns, keep: true }, { onSuccess: onDone })}
            >
              {say.cases.importWord} {cases.length} {say.cases.cases}
            </button>
            {v.differ > 0 && (
              <strong className="text-unseen">
                {v.differ} {say.cases.expectAnotherOutcomeThanThe}
              </strong>
            )}
          </div>
          <ul aria-label={say.cases.casesOfTheSheet} className="mt-2 max-w-[860px] text-[12.5px]">
            {cases.slice(0, 200).map((c) => (
              <li
                key={c.id}
                className="grid grid-cols-1 md:grid-cols-[minmax(0,1fr)_190px_230px] gap-2 border-t border-line py-0.5"
              >
                <span className="truncate" title={c.title}>
                  {c.title}
                </span>
                <span>
                  {c.why ? (
                    <span className="text-unseen">
                      {say.cases.cannotBeImported} {c.why}
                    </span>
                  ) : (
                    c.expect
                  )}
                </span>
                <span className="truncate">
                  {c.sheet_expects && (
                    <span className="font-semibold text-unseen">
                      {say.cases.theSheetExpects2} {c.sheet_expects}{" "}
                    </span>
                  )}
                  <span className="value text-soft">{c.breaks.join(" ")}</span>
                </span>
              </li>
            ))}
            {cases.length > 200 && (
              <li className="border-t border-line py-1 text-soft">
                {say.cases.and} {cases.length - 200} {say.cases.more}
              </li>
            )}
          </ul>
        </>
      )}
    </div>
  );
}
