import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { Link, useParams } from "react-router";
import { parse, stringify } from "yaml";
import { api, needVersion, Problem, type Schemas } from "../../api/client";
import { Menu } from "../../ui/menu";
import { Trouble, Waiting } from "../../ui/notice";
import { say } from "../../words";
import type { Path } from "./changes";
import { unreadable } from "./completion";
import { DocumentEditor, useAsText, useSchema } from "./document";
import { isMembers, type Schema, type Value } from "./schema";

type Settings = Schemas["SettingsView"] & { version: string };

/** Data source names, passwords and the values of headers: they go in and never come out. */
const secret = (path: Path) =>
  path.at(-1) === "dsn" || path.at(-1) === "password" || (path[0] === "headers" && path.length === 2);

/** Every key of a site's document, edited by controls or as text. */
export function SiteDocumentPage() {
  const { site = "" } = useParams();
  const schema = useSchema("site");
  const read = useQuery({
    queryKey: ["settings", site],
    queryFn: () => needVersion(api.GET("/api/sites/{site}/settings", { params: { path: { site } } })),
  });
  if (schema.isError) return <Trouble error={schema.error} again={() => schema.refetch()} />;
  if (read.isError) return <Trouble error={read.error} again={() => read.refetch()} />;
  if (!schema.data || !read.data) return <Waiting what={say.document.loading} />;
  return <Loaded site={site} schema={schema.data} settings={read.data} />;
}

/** What is written of a site, without what is empty or merely usual. */
function written(value: Value): Value {
  if (Array.isArray(value)) return value.map(written);
  if (!isMembers(value)) return value;
  return Object.fromEntries(
    Object.entries(value)
      .filter(([key, v]) => v !== "" && !(Array.isArray(v) && v.length === 0) && key !== "$schema")
      .map(([k, v]) => [k, written(v)]),
  );
}

function Loaded({ site, schema, settings }: { site: string; schema: Schema; settings: Settings }) {
  const cache = useQueryClient();
  const [asText, setAsText] = useAsText();
  const original = useMemo(() => written(settings.site as unknown as Value), [settings]);
  const text = useMemo(() => stringify(original, { lineWidth: 120 }), [original]);
  const [value, setValue] = useState(original);
  const [draft, setDraft] = useState(text);
  useEffect(() => {
    setValue(original);
    setDraft(text);
  }, [original, text]);
  const broken = asText ? unreadable(draft) : [];
  const put = useMutation({
    mutationFn: (body: Value) =>
      needVersion(
        api.PUT("/api/sites/{site}/settings", {
          params: { path: { site }, header: { "If-Match": settings.version } },
          body: body as unknown as Schemas["SpecSite"],
        }),
      ),
    onSuccess: (data) => {
      cache.setQueryData(["settings", site], data);
      for (const key of ["sites", "form", "journeys", "access"]) cache.invalidateQueries({ queryKey: [key] });
    },
  });
  const unsaved = asText ? draft !== text : JSON.stringify(value) !== JSON.stringify(original);
  const refused = unsaved && put.error instanceof Problem ? put.error : null;
  const told = refused?.parts.length
    ? refused.parts
    : refused
      ? [{ text: refused.message, path: "", line: 0, column: 0 }]
      : [];
  return (
    <div className="flex h-full flex-col">
      <header className="flex h-[75px] shrink-0 items-center justify-between border-b border-line bg-panel px-5">
        <div>
          <h1 className="text-[17px]">{say.document.everythingOf(settings.site.title || site)}</h1>
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
          problems={broken.length > 0 ? broken : told}
          outlook={put.isSuccess && !unsaved ? say.document.saved : ""}
          unsaved={unsaved}
          saving={put.isPending}
          fixed={["site"]}
          secret={secret}
          onAsText={setAsText}
          onValue={setValue}
          onText={setDraft}
          onSave={() => {
            if (broken.length === 0) put.mutate(asText ? (parse(draft) as Value) : value);
          }}
          onDiscard={() => {
            put.reset();
            setValue(original);
            setDraft(text);
          }}
        />
      </div>
    </div>
  );
}
