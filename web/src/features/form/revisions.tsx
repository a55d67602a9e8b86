import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { FormAt } from "../../api/client";
import { api, need } from "../../api/client";
import { useEditing } from "../../editing/edits";
import { Trouble, Waiting } from "../../ui/notice";
import { moment } from "../../ui/time";
import { say } from "../../words";

/** The form's revisions with their differences in words, its document's text, and its project file. */
export function Revisions({ at, newest }: { at: FormAt; newest: number }) {
  // by revision: what was asked for before a change is not what stands after it
  const list = useQuery({
    placeholderData: (before) => before,
    queryKey: ["revisions", at.site, at.form, newest],
    queryFn: () => need(api.GET("/api/sites/{site}/forms/{form}/revisions", { params: { path: at } })),
  });
  const source = useQuery({
    queryKey: ["document", at.site, at.form, newest],
    queryFn: () => need(api.GET("/api/sites/{site}/forms/{form}/document", { params: { path: at } })),
  });
  const editing = useEditing();
  const [shown, setShown] = useState(false);
  if (list.isPending) return <Waiting what={say.form.loadingRevisions} />;
  if (list.isError) return <Trouble error={list.error} again={() => list.refetch()} />;
  return (
    <section aria-label={say.form.revisions}>
      <h2 className="text-[15px]">{say.form.revisions}</h2>
      <p className="mt-1 flex gap-2">
        <button type="button" className="button" aria-expanded={shown} onClick={() => setShown(!shown)}>
          {say.form.viewYaml}
        </button>
        <a className="button no-underline" href={`/api/sites/${at.site}/project`} download>
          {say.form.projectFile}
        </a>
      </p>
      {shown && source.data && (
        <pre className="value mt-2 max-h-[420px] overflow-auto border border-line bg-ground p-2" tabIndex={0}>
          {source.data.text}
        </pre>
      )}
      <ol className="mt-2">
        {list.data.map((r) => (
          <li key={r.number} className="border-t border-line py-1.5">
            <div className="flex items-baseline gap-2">
              <span className="font-semibold">{r.number}</span>
              <span className="flex-1 text-[12px] text-soft">
                {moment(r.saved_at)} {r.saved_by && say.form.by(r.saved_by)}
              </span>
              {r.number !== newest && (
                <button type="button" className="mini" onClick={() => editing.restore(r.number)}>
                  {say.form.restore}
                </button>
              )}
            </div>
            {r.differences.length > 0 ? (
              <ul>
                {r.differences.map((d) => (
                  <li key={d}>{d}</li>
                ))}
              </ul>
            ) : (
              <p className="text-soft">{r.note}</p>
            )}
          </li>
        ))}
      </ol>
    </section>
  );
}
