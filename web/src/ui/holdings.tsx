import type { Schemas } from "../api/client";
import { say } from "../words";
import { count } from "./time";

/** What would be lost, as a sentence. */
export function Holdings({ of }: { of: Schemas["Holdings"] | undefined }) {
  if (!of) return <p role="status">{say.removal.counting}</p>;
  const w = say.removal;
  const parts = [
    of.forms > 1 && count(of.forms, w.form, w.forms),
    count(of.revisions, w.revision, w.revisions),
    count(of.runs, w.run, w.runs),
    of.case_edits > 0 && count(of.case_edits, w.changedCase, w.changedCases),
    of.triages > 0 && count(of.triages, w.triage, w.triages),
  ].filter(Boolean);
  return (
    <p>
      {w.lost} {parts.join(", ")}. {w.noUndo}
    </p>
  );
}
