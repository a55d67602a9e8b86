/** The kinds of database whose data source name is made of labelled values, and the one that is written as a whole. */
export const connectionKinds = ["mariadb", "postgresql", "sqlite", "dsn"] as const;

export type ConnectionKind = (typeof connectionKinds)[number];

/** Where a database is and as whom it is read. A SQLite database has a path only. */
export type Connection = {
  host: string;
  port: string;
  user: string;
  password: string;
  /** The name of the database on its server. */
  name: string;
  /** The file of a SQLite database. */
  path: string;
  /** A data source name as it was written. */
  dsn: string;
};

export const noConnection: Connection = {
  host: "127.0.0.1",
  port: "",
  user: "",
  password: "",
  name: "",
  path: "",
  dsn: "",
};

/** The ports on which servers of a kind listen by default. */
export const usualPort = { mariadb: "3306", postgresql: "5432" } as const;

/** The data source name of a connection; the forms are those of docs/databases.md. A host that is an IPv6 address gets its brackets. */
export function dsnOf(kind: ConnectionKind, c: Connection): string {
  switch (kind) {
    case "dsn":
      return c.dsn;
    case "sqlite":
      return c.path && `file:${c.path}`;
  }
  const host = c.host.includes(":") && !c.host.startsWith("[") ? `[${c.host}]` : c.host;
  const server = `${host}:${c.port || usualPort[kind]}`;
  const name = encodeURIComponent(c.name);
  if (kind === "mariadb") return `${c.user}${c.password && `:${c.password}`}@tcp(${server})/${name}`;
  const secret = c.password && `:${encodeURIComponent(c.password)}`;
  return `postgres://${encodeURIComponent(c.user)}${secret}@${server}/${name}`;
}
