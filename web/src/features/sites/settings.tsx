import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useParams } from "react-router";
import { api, need, needVersion, type Schemas } from "../../api/client";
import { Leaving } from "../../ui/leaving";
import { Menu } from "../../ui/menu";
import { Trouble, Waiting } from "../../ui/notice";
import { usePageTitle } from "../../ui/page-title";
import { say } from "../../words";
import { DeleteSite } from "./delete-site";

type Site = Schemas["SpecSite"];

const lines = (list: readonly string[] | null | undefined) => (list ?? []).join("\n");
const unlines = (text: string) =>
  text
    .split(/[\n,]+/)
    .map((x) => x.trim())
    .filter(Boolean);

/** The scheme, host and port of an address; an address that cannot be read is its own. */
function originOf(address: string | undefined) {
  try {
    return new URL(address ?? "").origin;
  } catch {
    return address;
  }
}

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
  const kept = read.data.kept;
  // passwords and headers are kept for the address for which they were entered
  const moved = originOf(draft.address) !== originOf(read.data.site.address);
  const held = moved ? say.sites.enterAgain : "kept";
  const change = (part: Partial<Site>) => {
    setSaved(false);
    setDraft({ ...draft, ...part });
  };
  const dbs = draft.databases ?? [];
  const accounts = draft.accounts ?? [];
  const headers = Object.entries(draft.headers ?? {});
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
          <label htmlFor="s-title">{say.sites.title}</label>
          <input
            id="s-title"
            className="field"
            value={draft.title ?? ""}
            onChange={(e) => change({ title: e.target.value })}
          />
          <label htmlFor="s-address">{say.sites.address}</label>
          <input
            id="s-address"
            className="field value"
            value={draft.address ?? ""}
            aria-describedby={moved ? "s-moved" : undefined}
            onChange={(e) => change({ address: e.target.value })}
          />
          {moved && (kept.accounts.length || kept.headers.length || kept.authentication) && (
            <p id="s-moved" className="md:col-start-2 text-[12.5px] text-soft">
              {say.sites.passwordsAndHeadersWereEntered} {read.data.site.address}
              {say.sites.enterThemAgainForThis}
            </p>
          )}
          <label htmlFor="s-allowed">
            {say.sites.otherHostsOddTickMay}
            <span className="block text-[12px] text-soft">{say.sites.onePerLine}</span>
          </label>
          <textarea
            id="s-allowed"
            className="field value h-14"
            value={lines(draft.allowed)}
            onChange={(e) => change({ allowed: unlines(e.target.value) })}
          />
          <label htmlFor="s-language">{say.sites.languageRequested}</label>
          <input
            id="s-language"
            className="field value"
            placeholder={say.sites.en}
            value={draft.language ?? ""}
            onChange={(e) => change({ language: e.target.value || undefined })}
          />
          <span>
            {say.sites.requestHeaders}
            <span className="block text-[12px] text-soft">{say.sites.sentWithEveryRequestValues}</span>
          </span>
          <div className="grid gap-1">
            {headers.map(([name, value], i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a header's name is itself edited
              <div key={i} className="flex flex-wrap gap-2">
                <input
                  aria-label={say.sites.header(i + 1)}
                  className="field value w-48"
                  value={name}
                  onChange={(e) =>
                    change({
                      headers: Object.fromEntries(headers.map((h, k) => (k === i ? [e.target.value, h[1]] : h))),
                    })
                  }
                />
                <input
                  aria-label={say.sites.valueOfHeader(i + 1)}
                  type="password"
                  autoComplete="off"
                  className="field value flex-1"
                  placeholder={kept.headers.includes(name) ? held : "value"}
                  value={value}
                  onChange={(e) => change({ headers: { ...draft.headers, [name]: e.target.value } })}
                />
                <button
                  type="button"
                  className="mini"
                  onClick={() => change({ headers: Object.fromEntries(headers.filter((_, k) => k !== i)) })}
                >
                  {say.sites.remove}
                </button>
              </div>
            ))}
            <button
              type="button"
              className="button w-fit"
              onClick={() => change({ headers: { ...draft.headers, [`X-Header-${headers.length + 1}`]: "" } })}
            >
              {say.sites.addAHeader}
            </button>
          </div>
          <span>{say.sites.httpAuthentication}</span>
          <div className="flex flex-wrap gap-2">
            <input
              aria-label={say.sites.userOfHttpAuthentication}
              className="field value w-48"
              placeholder={say.sites.userOptional}
              value={draft.authentication?.user ?? ""}
              onChange={(e) =>
                change({
                  authentication: e.target.value ? { ...draft.authentication, user: e.target.value } : undefined,
                })
              }
            />
            <input
              aria-label={say.sites.passwordOfHttpAuthentication}
              type="password"
              autoComplete="off"
              className="field value flex-1"
              placeholder={kept.authentication ? held : say.sites.password}
              disabled={!draft.authentication}
              value={draft.authentication?.password ?? ""}
              onChange={(e) =>
                draft.authentication &&
                change({ authentication: { ...draft.authentication, password: e.target.value } })
              }
            />
          </div>
          <label htmlFor="s-ca">{say.sites.certificateAuthority}</label>
          <textarea
            id="s-ca"
            className="field value h-14"
            placeholder={say.sites.pemCertificateOfYourOwn}
            value={draft.certificate_authority ?? ""}
            onChange={(e) => change({ certificate_authority: e.target.value || undefined })}
          />
          <span>{say.sites.databasesWatched}</span>
          <div className="grid gap-1">
            {dbs.map((d, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a database's id is itself edited
              <div key={i} className="grid grid-cols-1 md:grid-cols-[90px_minmax(0,1fr)_180px_auto] gap-2">
                <input
                  aria-label={say.sites.idOfDatabase(i + 1)}
                  className="field value"
                  value={d.id ?? ""}
                  onChange={(e) =>
                    change({ databases: dbs.map((x, k) => (k === i ? { ...x, id: e.target.value } : x)) })
                  }
                />
                <input
                  aria-label={say.sites.dataSourceNameOf(d.id)}
                  type="password"
                  autoComplete="off"
                  className="field value"
                  placeholder={kept.databases.includes(d.id ?? "") ? say.sites.kept : say.sites.userPasswordTcp12702}
                  value={d.dsn ?? ""}
                  onChange={(e) =>
                    change({ databases: dbs.map((x, k) => (k === i ? { ...x, dsn: e.target.value } : x)) })
                  }
                />
                <input
                  aria-label={say.sites.tablesOfThatAreNot(d.id)}
                  className="field value"
                  placeholder={say.sites.tablesNotWatchedSuchAs}
                  value={(d.ignore ?? []).join(", ")}
                  onChange={(e) =>
                    change({ databases: dbs.map((x, k) => (k === i ? { ...x, ignore: unlines(e.target.value) } : x)) })
                  }
                />
                <button
                  type="button"
                  className="mini"
                  onClick={() => change({ databases: dbs.filter((_, k) => k !== i) })}
                >
                  {say.sites.remove}
                </button>
              </div>
            ))}
            <button
              type="button"
              className="button w-fit"
              onClick={() => change({ databases: [...dbs, { id: dbs.length === 0 ? "main" : `db${dbs.length + 1}` }] })}
            >
              {say.sites.addADatabase}
            </button>
          </div>
          <span>
            {say.sites.signingIn}
            <span className="block text-[12px] text-soft">{say.sites.pageOfTheSignIn}</span>
          </span>
          <div className="flex flex-wrap gap-2">
            {(["page", "name", "password"] as const).map((key) => (
              <input
                key={key}
                aria-label={say.sites.signIn(key)}
                className="field value w-48"
                placeholder={{ page: "/sign-in", name: say.sites.nameField, password: say.sites.passwordField }[key]}
                value={draft.sign_in?.[key] ?? ""}
                onChange={(e) =>
                  change({
                    sign_in: { page: "", name: "", password: "", ...draft.sign_in, [key]: e.target.value },
                  })
                }
              />
            ))}
          </div>
          <span>{say.sites.accounts}</span>
          <div className="grid gap-1">
            {accounts.map((a, i) => (
              <div
                // biome-ignore lint/suspicious/noArrayIndexKey: an account's id is itself edited
                key={i}
                className="grid grid-cols-1 md:grid-cols-[90px_minmax(0,1fr)_minmax(0,1fr)_110px_auto] gap-2"
              >
                {(["id", "name", "password", "state"] as const).map((key) => (
                  <input
                    key={key}
                    aria-label={say.sites.ofAccount(key, i + 1)}
                    type={key === "password" ? "password" : "text"}
                    autoComplete="off"
                    className="field value"
                    placeholder={key === "password" && kept.accounts.includes(a.id) ? held : key}
                    value={a[key] ?? ""}
                    onChange={(e) =>
                      change({ accounts: accounts.map((x, k) => (k === i ? { ...x, [key]: e.target.value } : x)) })
                    }
                  />
                ))}
                <button
                  type="button"
                  className="mini"
                  onClick={() => change({ accounts: accounts.filter((_, k) => k !== i) })}
                >
                  {say.sites.remove}
                </button>
              </div>
            ))}
            <button
              type="button"
              className="button w-fit"
              onClick={() => change({ accounts: [...accounts, { id: `account${accounts.length + 1}`, name: "" }] })}
            >
              {say.sites.addAnAccount}
            </button>
          </div>
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
