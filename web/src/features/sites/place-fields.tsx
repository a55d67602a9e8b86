import { type ReactNode, useId, useState } from "react";
import type { Schemas } from "../../api/client";
import { ConnectionFields } from "../../editing/connection-fields";
import { Labelled } from "../../ui/labelled";
import { say } from "../../words";

/** What a site's own address and each of its environments have. */
export type Place = Pick<
  Schemas["SpecSite"],
  "address" | "allowed" | "headers" | "authentication" | "certificate_authority" | "databases" | "accounts"
>;
type Kept = Schemas["KeptSecrets"];
type Database = Schemas["SpecDatabase"];

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

/** A label, what it means, and its controls beside it, or below it where there is no room. */
export function Setting({
  label,
  help,
  id,
  children,
}: {
  label: string;
  help?: string;
  /** The control's id, where the label is of one control. */
  id?: string;
  children: ReactNode;
}) {
  const text = (
    <>
      {label}
      {help && <span className="block text-[12px] text-soft">{help}</span>}
    </>
  );
  return (
    <>
      {id ? <label htmlFor={id}>{text}</label> : <span>{text}</span>}
      {children}
    </>
  );
}

/** How a site is reached at one address: hosts, headers, authentication, databases and accounts. Secrets go in and never come out. */
export function PlaceFields({
  place,
  was,
  kept,
  change,
}: {
  place: Place;
  /** The address for which the kept secrets were entered. */
  was: string | undefined;
  kept: Kept | undefined;
  change: (part: Partial<Place>) => void;
}) {
  const id = useId();
  // passwords and headers are kept for the address for which they were entered
  const moved = originOf(place.address) !== originOf(was);
  const held = moved ? say.sites.enterAgain : say.sites.kept;
  const anyKept = !!kept && (kept.accounts.length > 0 || kept.headers.length > 0 || kept.authentication);
  const headers = Object.entries(place.headers ?? {});
  const accounts = place.accounts ?? [];
  const databases = place.databases ?? [];
  return (
    <>
      <Setting label={say.sites.address} id={`${id}-address`}>
        <input
          id={`${id}-address`}
          className="field value"
          value={place.address ?? ""}
          aria-describedby={moved ? `${id}-moved` : undefined}
          onChange={(e) => change({ address: e.target.value })}
        />
      </Setting>
      {moved && anyKept && (
        <p id={`${id}-moved`} className="md:col-start-2 text-[12.5px] text-soft">
          {say.sites.secretsAreOf(was)}
        </p>
      )}
      <Setting label={say.sites.otherHostsOddTickMay} help={say.sites.onePerLine} id={`${id}-allowed`}>
        <LinesField id={`${id}-allowed`} lines={place.allowed ?? []} onChange={(allowed) => change({ allowed })} />
      </Setting>
      <Setting label={say.sites.requestHeaders} help={say.sites.sentWithEveryRequestValues}>
        <div className="grid gap-1">
          {headers.map(([name, value], i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a header's name is itself edited
            <Entry key={i} label={say.sites.header(i + 1)} columns="md:grid-cols-[190px_minmax(0,1fr)_auto]">
              <EntryField
                first={i === 0}
                label={say.sites.headerName}
                value={name}
                onChange={(v) =>
                  change({ headers: Object.fromEntries(headers.map((h, k) => (k === i ? [v, h[1]] : h))) })
                }
              />
              <EntryField
                first={i === 0}
                label={say.sites.value}
                secret
                placeholder={kept?.headers.includes(name) ? held : ""}
                value={value}
                onChange={(v) => change({ headers: { ...place.headers, [name]: v } })}
              />
              <Remove
                name={name}
                act={() => change({ headers: Object.fromEntries(headers.filter((_, k) => k !== i)) })}
              />
            </Entry>
          ))}
          <Add act={() => change({ headers: { ...place.headers, [`X-Header-${headers.length + 1}`]: "" } })}>
            {say.sites.addAHeader}
          </Add>
        </div>
      </Setting>
      <Setting label={say.sites.httpAuthentication}>
        <Entry label={say.sites.httpAuthentication} columns="md:grid-cols-[190px_minmax(0,1fr)]">
          <EntryField
            first
            label={say.sites.userOptional}
            value={place.authentication?.user ?? ""}
            onChange={(user) => change({ authentication: user ? { ...place.authentication, user } : undefined })}
          />
          <EntryField
            first
            label={say.sites.password}
            secret
            placeholder={kept?.authentication ? held : ""}
            disabled={!place.authentication}
            value={place.authentication?.password ?? ""}
            onChange={(password) =>
              place.authentication && change({ authentication: { ...place.authentication, password } })
            }
          />
        </Entry>
      </Setting>
      <Setting label={say.sites.certificateAuthority} id={`${id}-ca`}>
        <textarea
          id={`${id}-ca`}
          className="field value h-14"
          placeholder={say.sites.pemCertificateOfYourOwn}
          value={place.certificate_authority ?? ""}
          onChange={(e) => change({ certificate_authority: e.target.value || undefined })}
        />
      </Setting>
      <Setting label={say.sites.databasesWatched}>
        <Databases databases={databases} kept={kept?.databases ?? []} change={(databases) => change({ databases })} />
      </Setting>
      <Setting label={say.sites.accounts} help={say.sites.whoCanSignIn}>
        <div className="grid gap-1">
          {accounts.map((a, i) => (
            <Entry
              // biome-ignore lint/suspicious/noArrayIndexKey: an account's id is itself edited
              key={i}
              label={say.sites.account(a.id)}
              columns="md:grid-cols-[110px_minmax(0,1fr)_minmax(0,1fr)_120px_auto]"
            >
              {(["id", "name", "password", "state"] as const).map((key) => (
                <EntryField
                  key={key}
                  first={i === 0}
                  label={
                    {
                      id: say.sites.shortName,
                      name: say.sites.signsInAs,
                      password: say.sites.password,
                      state: say.sites.stateOnceSignedIn,
                    }[key]
                  }
                  secret={key === "password"}
                  placeholder={key === "password" && kept?.accounts.includes(a.id) ? held : ""}
                  value={a[key] ?? ""}
                  onChange={(v) => change({ accounts: accounts.map((x, k) => (k === i ? { ...x, [key]: v } : x)) })}
                />
              ))}
              <Remove name={a.id} act={() => change({ accounts: accounts.filter((_, k) => k !== i) })} />
            </Entry>
          ))}
          <Add act={() => change({ accounts: [...accounts, { id: `account${accounts.length + 1}`, name: "" }] })}>
            {say.sites.addAnAccount}
          </Add>
        </div>
      </Setting>
    </>
  );
}

function Databases({
  databases,
  kept,
  change,
}: {
  databases: Database[];
  kept: Kept["databases"];
  change: (databases: Database[]) => void;
}) {
  const set = (i: number, part: Partial<Database>) =>
    change(databases.map((d, k) => (k === i ? { ...d, ...part } : d)));
  return (
    <div className="grid gap-2">
      {databases.map((d, i) => {
        const there = kept.find((k) => k.id === d.id);
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: a database's id is itself edited
          <Entry key={i} label={say.sites.databaseOf(d.id ?? "")} columns="border-l-2 border-line pl-2">
            <div className="grid grid-cols-1 items-end gap-2 md:grid-cols-[110px_minmax(0,1fr)_auto]">
              <EntryField first label={say.sites.shortName} value={d.id ?? ""} onChange={(id) => set(i, { id })} />
              <EntryField
                first
                label={say.sites.tablesNotCompared}
                placeholder={say.sites.tablesNotWatchedSuchAs}
                value={(d.ignore ?? []).join(", ")}
                onChange={(v) => set(i, { ignore: unlines(v) })}
                list
              />
              <Remove name={d.id ?? ""} act={() => change(databases.filter((_, k) => k !== i))} />
            </div>
            {!d.exports?.length && <ConnectionOf kept={there} change={(dsn) => set(i, { dsn })} />}
          </Entry>
        );
      })}
      <Add act={() => change([...databases, { id: databases.length === 0 ? "main" : `db${databases.length + 1}` }])}>
        {say.sites.addADatabase}
      </Add>
    </div>
  );
}

/** Where a database is: told where it is kept, and asked for where it is not or is to be another. */
function ConnectionOf({
  kept,
  change,
}: {
  kept: Kept["databases"][number] | undefined;
  change: (dsn: string) => void;
}) {
  const [another, setAnother] = useState(false);
  if (!kept) return <ConnectionFields onChange={change} />;
  const known = ["postgresql", "sqlite", "sqlserver", "oracle", "mongodb"] as const;
  const kind = known.find((k) => k === kept.kind) ?? "mariadb";
  return (
    <div className="flex flex-wrap items-center gap-2">
      <span>
        {kept.kind === "" ? say.sites.kept : say.connection[kind]}{" "}
        <span className="value">{kept.host ? `${kept.host}:${kept.port}/${kept.name}` : kept.name}</span>
      </span>
      <button
        type="button"
        className="mini"
        aria-expanded={another}
        onClick={() => {
          change("");
          setAnother(!another);
        }}
      >
        {another ? say.connection.keep : say.connection.replace}
      </button>
      {another && <ConnectionFields onChange={change} />}
    </div>
  );
}

/** One of several like entries: its controls in a row, or below each other where there is no room. */
export function Entry({ label, columns, children }: { label: string; columns: string; children: ReactNode }) {
  return (
    // biome-ignore lint/a11y/useSemanticElements: a fieldset cannot be a grid everywhere
    <div role="group" aria-label={label} className={`grid grid-cols-1 items-end gap-2 ${columns}`}>
      {children}
    </div>
  );
}

/** A control of an entry; in a row its label is shown above the first entry only. */
export function EntryField({
  first,
  label,
  value,
  onChange,
  secret,
  placeholder,
  disabled,
  list,
}: {
  first: boolean;
  label: string;
  value: string;
  onChange: (value: string) => void;
  secret?: boolean;
  placeholder?: string;
  disabled?: boolean;
  /** The value is a list, which is read once the control is left. */
  list?: boolean;
}) {
  const [typed, setTyped] = useState<string>();
  return (
    <Labelled label={label} hiddenInRows={!first}>
      <input
        className="field value w-full"
        type={secret ? "password" : "text"}
        autoComplete="off"
        placeholder={placeholder}
        disabled={disabled}
        value={typed ?? value}
        onChange={(e) => (list ? setTyped(e.target.value) : onChange(e.target.value))}
        onBlur={() => {
          if (typed !== undefined) onChange(typed);
          setTyped(undefined);
        }}
      />
    </Labelled>
  );
}

/** Texts, one per line; they are read once the control is left, so that a line can be begun. */
function LinesField({
  id,
  lines,
  onChange,
}: {
  id: string;
  lines: readonly string[];
  onChange: (l: string[]) => void;
}) {
  const [typed, setTyped] = useState<string>();
  return (
    <textarea
      id={id}
      className="field value h-14"
      value={typed ?? lines.join("\n")}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={() => {
        if (typed !== undefined) onChange(unlines(typed));
        setTyped(undefined);
      }}
    />
  );
}

function Remove({ name, act }: { name: string; act: () => void }) {
  return (
    <button type="button" className="mini justify-self-start" aria-label={say.sites.removeItem(name)} onClick={act}>
      {say.sites.remove}
    </button>
  );
}

export function Add({ act, children }: { act: () => void; children: ReactNode }) {
  return (
    <button type="button" className="button w-fit" onClick={act}>
      {children}
    </button>
  );
}
