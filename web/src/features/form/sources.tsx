import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import type { FormAt } from "../../api/client";
import { api, need } from "../../api/client";
import { Trouble } from "../../ui/notice";
import { say } from "../../words";
import { Proposals } from "./proposals";

const params = (at: FormAt) => ({ params: { path: at } });

/** Reads a form off its page: by its address, after its scripts, or from its HTML. */
export function FromPage({
  at,
  page,
  languages,
  first,
  onDone,
}: {
  at: FormAt;
  page: string;
  languages: string[];
  /** The form has no fields yet: this is what comes next. */
  first: boolean;
  onDone: () => void;
}) {
  const [language, setLanguage] = useState("");
  const [path, setPath] = useState(page);
  const [html, setHTML] = useState("");
  const [scripts, setScripts] = useState(false);
  const [opener, setOpener] = useState("");
  const read = useMutation({
    mutationFn: (form?: number) =>
      need(
        api.POST("/api/sites/{site}/forms/{form}/imports/page", {
          ...params(at),
          body: html ? { html, form, language } : { path, scripts, opened_by: opener, form, language },
        }),
      ),
  });
  const got = read.data;
  return (
    <section aria-label={say.form.fromThePage}>
      <h2 className="text-[15px]">{say.form.fromThePage}</h2>
      <form
        className="mt-1"
        onSubmit={(e) => {
          e.preventDefault();
          read.mutate(undefined);
        }}
      >
        <label className="block">
          {say.form.pathOrAddress}{" "}
          <input className="field value w-full" value={path} onChange={(e) => setPath(e.target.value)} />
        </label>
        <label className="mt-1 flex items-center gap-2">
          <input type="checkbox" className="size-4" checked={scripts} onChange={(e) => setScripts(e.target.checked)} />
          {say.form.runItsScriptsFirst}
        </label>
        <label className="mt-1 block">
          {say.form.openedBy}{" "}
          <input
            className="field value w-full"
            value={opener}
            placeholder={say.form.ifAButtonOpensIt}
            onChange={(e) => setOpener(e.target.value)}
          />
        </label>
        {languages.length > 1 && (
          <label className="mt-1 block">
            {say.form.inWord}{" "}
            <select className="cell" value={language} onChange={(e) => setLanguage(e.target.value)}>
              <option value="">{say.form.theSitesLanguage}</option>
              {languages.map((l) => (
                <option key={l} value={l}>
                  {l}
                  {say.form.labelsOnly}
                </option>
              ))}
            </select>
          </label>
        )}
        <details className="mt-1">
          <summary className="cursor-pointer">{say.form.orPasteHtml}</summary>
          <textarea
            aria-label="HTML"
            className="field value h-24 w-full"
            value={html}
            onChange={(e) => setHTML(e.target.value)}
          />
        </details>
        {/* biome-ignore lint/a11y/noAutofocus: whoever began a form reads its page next */}
        <button type="submit" className="button mt-2" disabled={read.isPending} autoFocus={first}>
          {read.isPending ? say.form.reading : say.form.read}
        </button>
      </form>
      {read.isError && <Trouble error={read.error} />}
      {got && got.forms.length > 1 && (
        <label className="mt-2 block">
          {say.form.whichForm}{" "}
          <select className="cell" value={got.form} onChange={(e) => read.mutate(Number(e.target.value))}>
            {got.forms.map((f, i) => (
              <option key={f} value={i}>
                {f}
              </option>
            ))}
          </select>
        </label>
      )}
      {got && <Proposals key={got.form} from={got.from} list={got.proposals} notes={got.notes} onDone={onDone} />}
    </section>
  );
}

/** Reads tables from the site's database or from SQL, and maps fields to columns. */
export function FromTables({ at, onDone }: { at: FormAt; onDone: () => void }) {
  const [sql, setSQL] = useState("");
  const [dialect, setDialect] = useState("");
  const read = useMutation({
    mutationFn: (table: string) =>
      need(
        api.POST("/api/sites/{site}/forms/{form}/imports/tables", {
          ...params(at),
          body: { sql, dialect: dialect as "", table },
        }),
      ),
  });
  const got = read.data;
  return (
    <section aria-label={say.form.fromTheTables}>
      <h2 className="text-[15px]">{say.form.fromTheTables}</h2>
      <p className="mt-1 text-soft">{say.form.fromTheSitesDatabaseOr}</p>
      <details className="mt-1">
        <summary className="cursor-pointer">{say.form.sql}</summary>
        <textarea
          aria-label="SQL"
          className="field value h-28 w-full"
          value={sql}
          onChange={(e) => setSQL(e.target.value)}
        />
        <label>
          {say.form.dialect}{" "}
          <select className="cell" value={dialect} onChange={(e) => setDialect(e.target.value)}>
            <option value="">{say.form.automatic}</option>
            <option value="mariadb">{say.form.mariadb}</option>
            <option value="mysql">{say.form.mysql}</option>
            <option value="postgresql">{say.form.postgresql}</option>
            <option value="sqlite">{say.form.sqlite}</option>
          </select>
        </label>
      </details>
      <button type="button" className="button mt-2" disabled={read.isPending} onClick={() => read.mutate("")}>
        {read.isPending ? say.form.reading : sql ? say.form.readTheSql : say.form.readTheDatabase}
      </button>
      {read.isError && <Trouble error={read.error} />}
      {got && (
        <>
          <label className="mt-2 block">
            {say.form.storedIn2}{" "}
            <select className="cell value" value={got.table} onChange={(e) => read.mutate(e.target.value)}>
              {got.tables.map((t) => (
                <option key={t}>{t}</option>
              ))}
            </select>
          </label>
          <Proposals key={got.table} from={got.from} list={got.proposals} notes={got.notes} onDone={onDone} />
        </>
      )}
    </section>
  );
}
