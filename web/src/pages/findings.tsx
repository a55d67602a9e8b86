import { Link } from "react-router";
import { Problem } from "../api/client";
import { useRun } from "../api/queries";
import { Trouble, Waiting } from "../parts/notice";
import { Tick } from "../parts/tick";
import { count } from "../parts/time";
import { useAt } from "./form-frame";

const formats = [
  { id: "csv", words: "sheet (CSV)" },
  { id: "junit", words: "JUnit XML" },
  { id: "json", words: "everything (JSON)" },
] as const;

/** What is odd in the newest run, grouped by cause, and the run in open formats. */
export function FindingsPage() {
  const at = useAt();
  const base = `/sites/${at.site}/forms/${at.form}`;
  const run = useRun(at, 0);
  if (run.isPending) return <Waiting what="Reading the run …" />;
  if (run.isError) {
    if (run.error instanceof Problem && run.error.status === 404)
      return (
        <p className="m-8">
          Nothing was run yet.{" "}
          <Link className="link" to={`${base}/cases`}>
            To the cases
          </Link>
        </p>
      );
    return <Trouble error={run.error} again={() => run.refetch()} />;
  }
  const view = run.data;
  const labels = new Map((view.rows ?? []).map((r) => [r.id, r.label]));
  return (
    <main tabIndex={0} className="h-full overflow-y-auto bg-panel">
      <div className="flex items-center justify-between border-b border-line px-5 py-2">
        <p>
          Run {view.run.number}: {count(view.causes?.length ?? 0, "cause")}, {count(view.run.odd, "odd case")} of{" "}
          {view.run.total}
        </p>
        <p className="flex gap-4">
          {formats.map((f) => (
            <a
              key={f.id}
              className="link"
              href={`/api/sites/${at.site}/forms/${at.form}/runs/${view.run.number}/report/${f.id}`}
              download
            >
              {f.words}
            </a>
          ))}
        </p>
      </div>
      {(view.causes ?? []).length === 0 && <p className="px-5 py-4">Nothing is odd in this run.</p>}
      <ol>
        {(view.causes ?? []).map((g) => (
          <li
            key={`${g.row}/${g.check}/${g.part}/${g.kind}`}
            className="grid grid-cols-[24px_minmax(0,1fr)_minmax(0,1.2fr)] gap-3 border-b border-line px-5 py-3"
          >
            <Tick verdict="odd" height={24} />
            <div>
              <h2 className="text-[15px]">{g.headline}</h2>
              <p className="text-soft">
                {g.row ? (labels.get(g.row) ?? g.row) : "Several rows"} · {g.check} · {g.part}
              </p>
            </div>
            <ul>
              {(g.cases ?? []).slice(0, 8).map((id) => (
                <li key={id}>
                  <Link
                    className="link value inline-block py-1"
                    to={`${base}/case?id=${encodeURIComponent(id)}&run=${view.run.number}`}
                  >
                    {id}
                  </Link>
                </li>
              ))}
              {(g.cases ?? []).length > 8 && <li className="text-soft">and {(g.cases ?? []).length - 8} more</li>}
            </ul>
          </li>
        ))}
      </ol>
    </main>
  );
}
