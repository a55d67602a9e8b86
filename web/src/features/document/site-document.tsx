import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";
import { Link, useParams } from "react-router";
import { parseDocument } from "yaml";
import { api, needVersion, Problem } from "../../api/client";
import { Menu } from "../../ui/menu";
import { Trouble, Waiting } from "../../ui/notice";
import { usePageTitle } from "../../ui/page-title";
import { say } from "../../words";
import { type Path, written } from "./changes";
import { unreadable } from "./completion";
import { DocumentEditor, problemsOf, useAsText, useEdited, useSchema, useSettled } from "./document";
import type { Schema } from "./schema";

const path = "/api/sites/{site}/document" as const;

/** Data source names, passwords and the values of headers: they go in and never come out. */
const secret = (path: Path) =>
  path.at(-1) === "dsn" || path.at(-1) === "password" || (path[0] === "headers" && path.length === 2);

/** Every key of a site's document, edited by controls or as text. */
export function SiteDocumentPage() {
  const { site = "" } = useParams();
  usePageTitle(say.document.everything, site);
  const schema = useSchema("site");
  const document = useQuery({
    queryKey: ["settings", site, "document"],
    queryFn: () => needVersion(api.GET(path, { params: { path: { site } } })),
  });
  if (schema.isError) return <Trouble error={schema.error} again={() => schema.refetch()} />;
  if (document.isError) return <Trouble error={document.error} again={() => document.refetch()} />;
  if (!schema.data || !document.data) return <Waiting what={say.document.loading} />;
  return <Loaded site={site} schema={schema.data} text={document.data.text} version={document.data.version} />;
}

function Loaded({ site, schema, text, version }: { site: string; schema: Schema; text: string; version: string }) {
  const cache = useQueryClient();
  const [asText, setAsText] = useAsText();
  const edited = useEdited(text, version);
  const { original, value, draft } = edited;
  const next = useMemo(
    () => (asText ? draft : written(edited.text, original, value)),
    [asText, draft, edited.text, original, value],
  );
  const settled = useSettled(next);
  const broken = useMemo(() => (asText ? unreadable(settled) : []), [asText, settled]);
  const put = (text: string, preview: boolean) =>
    needVersion(
      api.PUT(path, { params: { path: { site }, header: { "If-Match": edited.came } }, body: { text, preview } }),
    );
  const unsaved = next !== edited.text;
  const preview = useQuery({
    queryKey: ["preview", site, edited.came, settled],
    enabled: unsaved && settled !== edited.text && broken.length === 0,
    retry: false,
    gcTime: 0,
    queryFn: () => put(settled, true),
  });
  const save = useMutation({
    mutationFn: () => put(next, false),
    onSuccess: (data) => {
      edited.saving(true);
      cache.setQueryData(["settings", site, "document"], data);
      for (const key of ["settings", "sites", "form", "journeys", "access"])
        cache.invalidateQueries({ queryKey: [key] });
    },
  });
  const refused = unsaved ? (save.error ?? preview.error) : null;
  return (
    <div className="flex min-h-full flex-col lg:h-full">
      <header className="flex min-h-[75px] shrink-0 flex-wrap items-center justify-between gap-2 py-2 border-b border-line bg-panel px-5">
        <div>
          <h1 className="text-[17px]">{say.document.everythingOf(String(parseDocument(text).get("title") ?? site))}</h1>
          <p className="flex gap-3 text-[12.5px] text-soft">
            <Link className="link" to="/">
              {say.document.sites}
            </Link>
            <Link className="link" to={`/sites/${site}/settings`}>
              {say.document.settings}
            </Link>
          </p>
        </div>
        <Menu />
      </header>
      <div className="min-h-0 flex-1">
        <DocumentEditor
          schema={schema}
          value={value}
          text={draft}
          asText={asText}
          problems={broken.length > 0 ? broken : problemsOf(refused instanceof Problem ? refused : null)}
          outlook={save.isSuccess && !unsaved ? say.document.saved : preview.isFetching ? say.document.checking : ""}
          unsaved={unsaved}
          saving={save.isPending}
          fixed={["site"]}
          secret={secret}
          onAsText={setAsText}
          onValue={edited.setValue}
          onText={edited.setDraft}
          onSave={() => {
            if (broken.length === 0) save.mutate();
          }}
          onDiscard={() => {
            save.reset();
            edited.discard();
          }}
        />
      </div>
    </div>
  );
}
