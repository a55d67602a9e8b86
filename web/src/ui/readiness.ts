import type { PartReadiness } from "../api/readiness";
import type { Verdict } from "./tick";

/** The tick of a state of readiness: upright may ship, leaning may not, dotted is not known. */
export function readyMark(state: PartReadiness["verdict"]["state"]): Verdict {
  if (state === "ready") return "as expected";
  return state === "not_ready" ? "odd" : "not observed";
}

/** Where a part of a site is looked at closer. */
export function partLink(site: string, part: { kind: string; id: string; run?: number }): string {
  if (part.kind === "access") return `/sites/${site}/access`;
  if (part.kind === "journey") return `/sites/${site}/journeys`;
  return `/sites/${site}/forms/${part.id}/${part.run ? "findings" : "cases"}`;
}
