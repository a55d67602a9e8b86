import type { SiteReadiness } from "../../api/readiness";
import { say, worded } from "../../words";

/** What a team asks of a form before it may ship, as a sentence. */
export function asked(of: SiteReadiness["asked"]): string {
  const w = say.readiness;
  const severities = of?.no_findings ?? [];
  const parts = [
    severities.length > 0 ? w.noFindingOf(severities.map(worded).join(", ")) : w.noFinding,
    of?.max_not_observed ? w.atMostNotObserved(of.max_not_observed) : w.everythingObserved,
    of?.min_coverage ? w.coverageAtLeast(of.min_coverage) : "",
    of?.depth ? w.depthAtLeast(worded(of.depth)) : "",
    of?.max_days ? w.runWithin(of.max_days) : "",
    w.newestRevision,
  ];
  return `${parts.filter(Boolean).join("; ")}.`;
}
