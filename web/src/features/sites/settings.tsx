import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import { api, need, needVersion, type Schemas } from "../../api/client";
import { Menu } from "../../ui/menu";
import { Trouble, Waiting } from "../../ui/notice";

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
  const cache = useQueryClient();
  const at = { params: { path: { site } } };
  const read = useQuery({
    queryKey: ["settings", site],
    queryFn: () => needVersion(api.GET("/api/sites/{site}/settings", at)),
  });
  const [draft, setDraft] = useState<Site | null>(null);
  const [saved, setSaved] = useState(false);
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
  if (!draft || !read.data) return <Waiting what="Loading settings …" />;
  const kept = read.data.kept;
  // passwords and headers are kept for the address for which they were entered
  const moved = originOf(draft.address) !== originOf(read.data.site.address);
  const held = moved ? "enter again" : "kept";
  const change = (part: Partial<Site>) => {
    setSaved(false);
    setDraft({ ...draft, ...part });
  };
  const dbs = draft.databases ?? [];
  const accounts = draft.accounts ?? [];
  const headers = Object.entries(draft.headers ?? {});
  return (
    <div className="flex min-h-full flex-col">
      <header className="flex h-[75px] shrink-0 items-center justify-between border-b border-line bg-panel px-5">
        <div>
          <h1 className="text-[17px]">{draft.title || site}: settings</h1>
          <p className="text-[12.5px] text-soft">
            <Link className="link" to="/">
              Sites
            </Link>
          </p>
        </div>
        <Menu />
      </header>
      <main className="flex-1 bg-panel px-5 py-4">
        <form
          className="grid max-w-4xl grid-cols-[180px_minmax(0,1fr)] items-start gap-x-4 gap-y-2"
          onSubmit={(e) => {
            e.preventDefault();
            put.mutate(draft);
          }}
        >
          <label htmlFor="s-title">Title</label>
          <input
            id="s-title"
            className="field"
            value={draft.title ?? ""}
            onChange={(e) => change({ title: e.target.value })}
          />
          <label htmlFor="s-address">Address</label>
          <input
            id="s-address"
            className="field value"
            value={draft.address ?? ""}
            aria-describedby={moved ? "s-moved" : undefined}
            onChange={(e) => change({ address: e.target.value })}
          />
          {moved && (kept.accounts.length || kept.headers.length || kept.authentication) && (
            <p id="s-moved" className="col-start-2 text-[12.5px] text-soft">
              Passwords and headers were entered for {read.data.site.address}. Enter them again for this address, or
              remove them.
            </p>
          )}
          <label htmlFor="s-allowed">
            Other hosts Odd Tick may contact
            <span className="block text-[12px] text-soft">one per line</span>
          </label>
          <textarea
            id="s-allowed"
            className="field value h-14"
            value={lines(draft.allowed)}
            onChange={(e) => change({ allowed: unlines(e.target.value) })}
          />
          <label htmlFor="s-language">Language requested</label>
          <input
            id="s-language"
            className="field value"
            placeholder="en"
            value={draft.language ?? ""}
            onChange={(e) => change({ language: e.target.value || undefined })}
          />
          <span>
            Request headers
            <span className="block text-[12px] text-soft">sent with every request; values are stored encrypted</span>
          </span>
          <div className="grid gap-1">
            {headers.map(([name, value], i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a header's name is itself edited
              <div key={i} className="flex gap-2">
                <input
                  aria-label={`Header ${i + 1}`}
                  className="field value w-48"
                  value={name}
                  onChange={(e) =>
                    change({
                      headers: Object.fromEntries(headers.map((h, k) => (k === i ? [e.target.value, h[1]] : h))),
                    })
                  }
                />
                <input
                  aria-label={`Value of header ${i + 1}`}
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
                  remove
                </button>
              </div>
            ))}
            <button
              type="button"
              className="button w-fit"
              onClick={() => change({ headers: { ...draft.headers, [`X-Header-${headers.length + 1}`]: "" } })}
            >
              Add a header
            </button>
          </div>
          <span>HTTP authentication</span>
          <div className="flex gap-2">
            <input
              aria-label="User of HTTP authentication"
              className="field value w-48"
              placeholder="user (optional)"
              value={draft.authentication?.user ?? ""}
              onChange={(e) =>
                change({
                  authentication: e.target.value ? { ...draft.authentication, user: e.target.value } : undefined,
                })
              }
            />
            <input
              aria-label="Password of HTTP authentication"
              type="password"
              autoComplete="off"
              className="field value flex-1"
              placeholder={kept.authentication ? held : "password"}
              disabled={!draft.authentication}
              value={draft.authentication?.password ?? ""}
              onChange={(e) =>
                draft.authentication &&
                change({ authentication: { ...draft.authentication, password: e.target.value } })
              }
            />
          </div>
          <label htmlFor="s-ca">Certificate authority</label>
          <textarea
            id="s-ca"
            className="field value h-14"
            placeholder="PEM certificate of your own CA"
            value={draft.certificate_authority ?? ""}
            onChange={(e) => change({ certificate_authority: e.target.value || undefined })}
          />
          <span>Databases watched</span>
          <div className="grid gap-1">
            {dbs.map((d, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a database's id is itself edited
              <div key={i} className="grid grid-cols-[90px_minmax(0,1fr)_180px_auto] gap-2">
                <input
                  aria-label={`Id of database ${i + 1}`}
                  className="field value"
                  value={d.id ?? ""}
                  onChange={(e) =>
                    change({ databases: dbs.map((x, k) => (k === i ? { ...x, id: e.target.value } : x)) })
                  }
                />
                <input
                  aria-label={`Data source name of ${d.id}`}
                  type="password"
                  autoComplete="off"
                  className="field value"
                  placeholder={kept.databases.includes(d.id ?? "") ? "kept" : "user:password@tcp(127.0.0.1:3306)/name"}
                  value={d.dsn ?? ""}
                  onChange={(e) =>
                    change({ databases: dbs.map((x, k) => (k === i ? { ...x, dsn: e.target.value } : x)) })
                  }
                />
                <input
                  aria-label={`Tables of ${d.id} that are not watched`}
                  className="field value"
                  placeholder="tables not watched, such as logs, sessions"
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
                  remove
                </button>
              </div>
            ))}
            <button
              type="button"
              className="button w-fit"
              onClick={() => change({ databases: [...dbs, { id: dbs.length === 0 ? "main" : `db${dbs.length + 1}` }] })}
            >
              Add a database
            </button>
          </div>
          <span>
            Signing in
            <span className="block text-[12px] text-soft">
              page of the sign-in form, and the request names of its two fields
            </span>
          </span>
          <div className="flex gap-2">
            {(["page", "name", "password"] as const).map((key) => (
              <input
                key={key}
                aria-label={`Sign-in: ${key}`}
                className="field value w-48"
                placeholder={{ page: "/sign-in", name: "name field", password: "password field" }[key]}
                value={draft.sign_in?.[key] ?? ""}
                onChange={(e) =>
                  change({
                    sign_in: { page: "", name: "", password: "", ...draft.sign_in, [key]: e.target.value },
                  })
                }
              />
            ))}
          </div>
          <span>Accounts</span>
          <div className="grid gap-1">
            {accounts.map((a, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: an account's id is itself edited
              <div key={i} className="grid grid-cols-[90px_minmax(0,1fr)_minmax(0,1fr)_110px_auto] gap-2">
                {(["id", "name", "password", "state"] as const).map((key) => (
                  <input
                    key={key}
                    aria-label={`${key} of account ${i + 1}`}
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
                  remove
                </button>
              </div>
            ))}
            <button
              type="button"
              className="button w-fit"
              onClick={() => change({ accounts: [...accounts, { id: `account${accounts.length + 1}`, name: "" }] })}
            >
              Add an account
            </button>
          </div>
          <label htmlFor="s-marks">Traces</label>
          <label>
            <input
              id="s-marks"
              type="checkbox"
              checked={draft.marked_values !== false}
              onChange={(e) => change({ marked_values: e.target.checked })}
            />{" "}
            Allow traces to submit test values
          </label>
          {put.isError && (
            <div className="col-start-2">
              <Trouble error={put.error} />
            </div>
          )}
          <div className="col-start-2 flex items-center gap-2 pt-2">
            <button type="submit" className="button button-lead" disabled={put.isPending}>
              Save
            </button>
            <button type="button" className="button" disabled={reach.isPending} onClick={() => reach.mutate()}>
              {reach.isPending ? "Testing …" : "Test connection"}
            </button>
            <span role="status">{saved && "Saved."}</span>
          </div>
        </form>
        {reach.isError && <Trouble error={reach.error} />}
        {reach.data && (
          <ul aria-label="Result of the test" className="mt-3 max-w-4xl">
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
