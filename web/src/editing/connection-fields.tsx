import { type InputHTMLAttributes, useId, useState } from "react";
import { Labelled } from "../ui/labelled";
import { say } from "../words";
import { type Connection, type ConnectionKind, connectionKinds, dsnOf, noConnection, usualPort } from "./dsn";

/** The controls of a database's connection, each with its label; what they come to is its data source name. */
export function ConnectionFields({ onChange }: { onChange: (dsn: string) => void }) {
  const [kind, setKind] = useState<ConnectionKind | "">("");
  const id = useId();
  const [parts, setParts] = useState<Connection>(noConnection);
  const w = say.connection;
  const become = (kind: ConnectionKind | "", parts: Connection) => {
    setKind(kind);
    setParts(parts);
    onChange(kind === "" ? "" : dsnOf(kind, parts));
  };
  const input = (
    key: keyof Connection,
    label: string,
    width: string,
    more: InputHTMLAttributes<HTMLInputElement> = {},
  ) => (
    <Labelled label={label} width={width}>
      <input
        className="field value w-full"
        autoComplete="off"
        {...more}
        value={parts[key]}
        onChange={(e) => become(kind, { ...parts, [key]: e.target.value })}
      />
    </Labelled>
  );
  return (
    <div className="flex flex-wrap items-end gap-2">
      <div className="grid w-44 gap-0.5">
        <label htmlFor={id} className="text-[12px] text-soft">
          {w.kind}
        </label>
        <select
          id={id}
          className="field w-full"
          value={kind}
          onChange={(e) => become(e.target.value as ConnectionKind | "", parts)}
        >
          <option value="">{w.none}</option>
          {connectionKinds.map((k) => (
            <option key={k} value={k}>
              {w[k]}
            </option>
          ))}
        </select>
      </div>
      {(kind === "mariadb" || kind === "postgresql") && (
        <>
          {input("host", w.host, "w-40", { required: true })}
          {input("port", w.port, "w-20", { placeholder: usualPort[kind], inputMode: "numeric", pattern: "[0-9]+" })}
          {input("name", w.name, "w-40", { required: true })}
          {input("user", w.user, "w-32")}
          {input("password", w.password, "w-32", { type: "password" })}
        </>
      )}
      {kind === "sqlite" && input("path", w.path, "w-72", { placeholder: "/srv/site/data.db", required: true })}
      {kind === "dsn" &&
        input("dsn", w.dsn, "w-96 max-w-full", {
          type: "password",
          placeholder: w.dsnExample,
          required: true,
        })}
    </div>
  );
}
