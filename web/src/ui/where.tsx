import { useId } from "react";
import type { Schemas } from "../api/client";
import { say } from "../words";

/** One of a site's environments, "" for its own address, and what was typed to confirm that it is meant. */
export type Where = { environment: string; confirmed: string };

export const ownAddress: Where = { environment: "", confirmed: "" };

type Environment = Schemas["EnvironmentView"];

/** Whether something that writes may be submitted there: not where nothing should be written, and of a protected one the id was typed. */
export function maySubmit(where: Where, environments: Environment[]): boolean {
  return !writesNothing(where, environments) && mayStart(where, environments);
}

/** Whether a run may be started there: of a protected environment the id was typed. */
export function mayStart(where: Where, environments: Environment[]): boolean {
  const e = environments.find((x) => x.id === where.environment);
  return e?.protected !== "confirm" || where.confirmed === e.id;
}

/** Whether the environment takes only what should write nothing. */
export function writesNothing(where: Where, environments: Environment[]): boolean {
  return environments.find((x) => x.id === where.environment)?.protected === "no_writes";
}

/** The site's own address and its environments, of which one is chosen by its id. */
export function EnvironmentSelect({
  id,
  chosen,
  environments,
  choose,
}: {
  id: string;
  chosen: string;
  environments: { id: string; title: string }[];
  choose: (environment: string) => void;
}) {
  return (
    <select id={id} className="button" value={chosen} onChange={(e) => choose(e.target.value)}>
      <option value="">{say.run.theSitesOwnAddress}</option>
      {environments.map((e) => (
        <option key={e.id} value={e.id}>
          {e.title}
        </option>
      ))}
    </select>
  );
}

/** Where something is run, for a site that has several environments; a protected one asks for its id. */
export function WhereToRun({
  where,
  environments,
  set,
}: {
  where: Where;
  environments: Environment[] | undefined;
  set: (where: Where) => void;
}) {
  const id = useId();
  if (!environments || environments.length === 0) return null;
  const chosen = environments.find((e) => e.id === where.environment);
  return (
    <span className="flex flex-wrap items-center gap-2 text-[12.5px]">
      <label htmlFor={id}>{say.run.environment}</label>
      <EnvironmentSelect
        id={id}
        chosen={where.environment}
        environments={environments}
        choose={(environment) => set({ environment, confirmed: "" })}
      />
      {chosen?.protected === "confirm" && (
        <ConfirmInput confirmed={where.confirmed} set={(confirmed) => set({ ...where, confirmed })} />
      )}
    </span>
  );
}

/** Where the id of a protected environment is typed before something is run in it. */
export function ConfirmInput({ confirmed, set }: { confirmed: string; set: (confirmed: string) => void }) {
  return (
    <input
      aria-label={say.run.protectedTypeIts}
      placeholder={say.run.protectedTypeIts}
      className="field value w-48"
      autoComplete="off"
      value={confirmed}
      onChange={(e) => set(e.target.value)}
    />
  );
}

/** The query of a request about something that is run there. */
export function inQuery(where: Where): { environment?: string; confirmed?: string } {
  return { environment: where.environment || undefined, confirmed: where.confirmed || undefined };
}
