import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useId, useRef, useState } from "react";
import { Link, useParams } from "react-router";
import { api, need, needVersion, type Schemas } from "../../api/client";
import { Leaving } from "../../ui/leaving";
import { Menu } from "../../ui/menu";
import { Trouble, Waiting } from "../../ui/notice";
import { usePageTitle } from "../../ui/page-title";
import { say } from "../../words";
import { DeleteSite } from "./delete-site";
import { Add, Entry, EntryField, PlaceFields, Setting } from "./place-fields";

type Site = Schemas["SpecSite"];
type Environment = Schemas["SpecEnvironment"];

/** How a site is reached: addresses, headers, authentication, databases, accounts. Secrets go in and never come out. */
export function SettingsPage() {
  const { site = "" } = useParams();
  usePageTitle(say.document.settings, site);
  const cache = useQueryClient();
  const at = { params: { path: { site } } };
  const read = useQuery({
    queryKey: ["settings", site],
    queryFn: () => needVersion(api.GET("/api/sites/{site}/settings", at)),
  });
  const [draft, setDraft] = useState<Site | null>(null);
  const [saved, setSaved] = useState(false);
  const gone = useRef(false);
  useEffect(() => {
    if (read.data) setDraft(read.data.site);
  }, [read.data]);
  const put = useMutation({
    mutationFn: (body: Site) =>
      needVersion(
        api.PUT("/api/sites/{site}/settings", {
          params: { path: { site }, header: { "If-Match": read.data?.version ?? "" } },
          body,
        }),
      ),
    onSuccess: (data) => {
      cache.setQueryData(["settings", site], data);
      setSaved(true);
      for (const key of ["sites", "form"]) cache.invalidateQueries({ queryKey: [key] });
    },
  });
  const reach = useMutation({ mutationFn: () => need(api.POST("/api/sites/{site}/connection-test", at)) });
  if (read.isError) return <Trouble error={read.error} again={() => read.refetch()} />;
  if (!draft || !read.data) return <Waiting what={say.sites.loadingSettings} />;
  const change = (part: Partial<Site>) => {
    setSaved(false);
    setDraft({ ...draft, ...part });
  };
  const environments = draft.environments ?? [];
  return (
    <div className="flex min-h-full flex-col">
      <header className="flex min-h-[75px] shrink-0 flex-wrap items-center justify-between gap-2 py-2 border-b border-line bg-panel px-5">
        <div>
          <h1 className="text-[17px]">
            {draft.title || site}
            {say.sites.settings}
          </h1>
          <p className="flex gap-3 text-[12.5px] text-soft">
            <Link className="link" to="/">
              {say.sites.sites}
            </Link>
            <Link className="link" to={`/sites/${site}/document`}>
              {say.document.everything}
            </Link>
          </p>
        </div>
        <Menu />
      </header>
      <Leaving unsaved={JSON.stringify(draft) !== JSON.stringify(read.data.site)} gone={gone} />
      <main className="flex-1 bg-panel px-5 py-4">
        <form
          className="grid max-w-4xl grid-cols-1 md:grid-cols-[180px_minmax(0,1fr)] items-start gap-x-4 gap-y-2"
          onSubmit={(e) => {
            e.preventDefault();
            put.mutate(draft);
          }}
        >
          <Setting label={say.sites.title} id="s-title">
            <input
              id="s-title"
              className="field"
              value={draft.title ?? ""}
              onChange={(e) => change({ title: e.target.value })}
            />
          </Setting>
          <PlaceFields place={draft} was={read.data.site.address} kept={read.data.kept} change={change} />
          <Setting label={say.sites.languageRequested} id="s-language">
            <input
              id="s-language"
              className="field value"
              placeholder={say.sites.en}
              value={draft.language ?? ""}
              onChange={(e) => change({ language: e.target.value || undefined })}
            />
          </Setting>
          <Setting label={say.sites.signingIn}>
            <Entry label={say.sites.signingIn} columns="md:grid-cols-3">
              {(["page", "name", "password"] as const).map((key) => (
                <EntryField
                  key={key}
                  first
                  label={
                    { page: say.sites.pageOfTheSignIn, name: say.sites.nameField, password: say.sites.passwordField }[
                      key
                    ]
                  }
                  value={draft.sign_in?.[key] ?? ""}
                  onChange={(v) =>
                    change({ sign_in: { page: "", name: "", password: "", ...draft.sign_in, [key]: v } })
                  }
                />
              ))}
            </Entry>
          </Setting>
          <Setting label={say.sites.environments} help={say.sites.otherPlaces}>
            <div className="grid gap-1">
              {environments.map((e, i) => (
                <EnvironmentFields
                  // biome-ignore lint/suspicious/noArrayIndexKey: an environment's id is itself edited
                  key={i}
                  environment={e}
                  was={read.data.site.environments?.find((x) => x.id === e.id)?.address}
                  kept={read.data.kept_at[e.id]}
                  change={(part) =>
                    change({ environments: environments.map((x, k) => (k === i ? { ...x, ...part } : x)) })
                  }
                  remove={() => change({ environments: environments.filter((_, k) => k !== i) })}
                />
              ))}
              <Add
                act={() =>
                  change({ environments: [...environments, { id: `place${environments.length + 1}`, address: "" }] })
                }
              >
                {say.sites.addAnEnvironment}
              </Add>
            </div>
          </Setting>
          <label htmlFor="s-marks">{say.sites.traces}</label>
          <label>
            <input
              id="s-marks"
              type="checkbox"
              checked={draft.marked_values !== false}
              onChange={(e) => change({ marked_values: e.target.checked })}
            />{" "}
            {say.sites.allowTracesToSubmitTest}
          </label>
          {put.isError && (
            <div className="md:col-start-2">
              <Trouble error={put.error} />
            </div>
          )}
          <div className="md:col-start-2 flex items-center gap-2 pt-2">
            <button type="submit" className="button button-lead" disabled={put.isPending}>
              {say.sites.save}
            </button>
            <button type="button" className="button" disabled={reach.isPending} onClick={() => reach.mutate()}>
              {reach.isPending ? say.sites.testing : say.sites.testConnection}
            </button>
            <span role="status">{saved && say.sites.saved}</span>
            <span className="flex-1" />
            <DeleteSite
              site={site}
              title={read.data.site.title || site}
              onDeleted={() => {
                gone.current = true;
              }}
            />
          </div>
        </form>
        {reach.isError && <Trouble error={reach.error} />}
        {reach.data && (
          <ul aria-label={say.sites.resultOfTheTest} className="mt-3 max-w-4xl">
            {reach.data.checks.map((c) => (
              <li key={c.what} className={`border-t border-line py-1 ${c.ok ? "" : "border-l-4 border-l-unseen pl-2"}`}>
                <span className="value font-semibold">{c.what}</span> {c.says}
              </li>
            ))}
          </ul>
        )}
      </main>
    </div>
  );
}

/** Another place where the site runs, closed until it is asked for. */
function EnvironmentFields({
  environment: e,
  was,
  kept,
  change,
  remove,
}: {
  environment: Environment;
  was: string | undefined;
  kept: Schemas["KeptSecrets"] | undefined;
  change: (part: Partial<Environment>) => void;
  remove: () => void;
}) {
  const protection = useId();
  return (
    <details open={was === undefined} className="border border-line px-2 py-1">
      <summary className="cursor-pointer">
        {e.title || e.id} <span className="value text-soft">{e.address}</span>
      </summary>
      <div className="mt-2 grid grid-cols-1 items-start gap-x-4 gap-y-2 md:grid-cols-[160px_minmax(0,1fr)]">
        <Setting label={say.sites.name}>
          <Entry label={say.sites.name} columns="md:grid-cols-[110px_minmax(0,1fr)]">
            <EntryField first label={say.sites.shortName} value={e.id} onChange={(id) => change({ id })} />
            <EntryField first label={say.sites.title} value={e.title ?? ""} onChange={(title) => change({ title })} />
          </Entry>
        </Setting>
        <Setting label={say.sites.protection} id={protection}>
          <select
            id={protection}
            className="field w-fit max-w-full"
            value={e.protected ?? ""}
            onChange={(x) => change({ protected: x.target.value || undefined })}
          >
            <option value="">{say.sites.notProtected}</option>
            <option value="confirm">{say.sites.protectedConfirm}</option>
            <option value="no_writes">{say.sites.protectedNoWrites}</option>
          </select>
        </Setting>
        <PlaceFields place={e} was={was} kept={kept} change={change} />
        <button type="button" className="button w-fit md:col-start-2" onClick={remove}>
          {say.sites.removeEnvironment(e.title || e.id)}
        </button>
      </div>
    </details>
  );
}
