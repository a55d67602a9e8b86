import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, type FormAt, need, Problem } from "../api/client";
import { TextEditor } from "../editing/text-editor";
import { Menu } from "../ui/menu";
import { Trouble, Waiting } from "../ui/notice";
import { say } from "../words";

const path = "/api/sites/{site}/forms/{form}/document" as const;

/** A form for which no cases can be designed: what is wrong, and its document's text to put it right. */
export function MendPage({ at, problem }: { at: FormAt; problem: Problem }) {
  const document = useQuery({
    queryKey: ["document", at.site, at.form],
    queryFn: () => need(api.GET(path, { params: { path: at } })),
  });
  return (
    <div className="flex min-h-full flex-col lg:h-full">
      <header className="flex min-h-[75px] shrink-0 flex-wrap items-center justify-between gap-2 py-2 border-b border-line bg-panel px-5">
        <div>
          <h1 className="text-[17px]">
            {say.app.theForm} {at.form} {say.app.mustBeMended}
          </h1>
          <p className="text-[12.5px] text-soft">
            <Link to="/" className="link">
              {say.app.sites}
            </Link>
          </p>
        </div>
        <Menu />
      </header>
      <main className="flex min-h-0 flex-1 flex-col gap-3 bg-panel px-5 py-3">
        {document.isPending && <Waiting what={say.app.loadingTheDocument} />}
        {document.isError && <Trouble error={document.error} again={() => document.refetch()} />}
        {document.data && (
          <Text
            key={document.data.revision}
            at={at}
            problem={problem}
            base={document.data.revision}
            text={document.data.text}
          />
        )}
      </main>
    </div>
  );
}

function Text({ at, problem, base, text }: { at: FormAt; problem: Problem; base: number; text: string }) {
  const [changed, setChanged] = useState(text);
  const cache = useQueryClient();
  const save = useMutation({
    mutationFn: () => need(api.PUT(path, { params: { path: at }, body: { base, text: changed } })),
    onSuccess: () => cache.invalidateQueries(),
  });
  const shown = save.error instanceof Problem ? save.error : problem;
  return (
    <form
      className="flex min-h-0 flex-1 flex-col gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate();
      }}
    >
      <div role="alert" className="max-w-4xl border-l-4 border-unseen px-4 py-1">
        <p>{shown.message}</p>
        {shown.parts.length > 1 && (
          <ul>
            {shown.parts.map((p) => (
              <li key={`${p.line} ${p.text}`}>{say.document.atLine(p.line, p.text)}</li>
            ))}
          </ul>
        )}
      </div>
      <p>{say.app.yamlOfTheForm}</p>
      <TextEditor text={changed} label={say.app.yamlOfTheForm} problems={shown.parts} onChange={setChanged} />
      <p className="flex gap-2">
        <button type="submit" className="button button-lead" disabled={save.isPending || changed === text}>
          {say.app.save}
        </button>
        <button type="button" className="button" disabled={changed === text} onClick={() => setChanged(text)}>
          {say.app.discardChanges}
        </button>
      </p>
    </form>
  );
}
