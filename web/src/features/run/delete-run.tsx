import { useNavigate } from "react-router";
import type { FormAt } from "../../api/client";
import { useDeleteRun } from "../../api/removal";
import { DeleteButton } from "../../ui/delete-button";
import { say } from "../../words";

/** Deletes a run that has ended, once that is confirmed. */
export function DeleteRun({ at, run, cases }: { at: FormAt; run: number; cases: number }) {
  const go = useNavigate();
  const remove = useDeleteRun(at, run, () => go(`/sites/${at.site}/forms/${at.form}/run`, { replace: true }));
  return (
    <DeleteButton label={say.removal.deleteThisRun} title={say.removal.deleteRun(run)} remove={remove}>
      <p>{say.removal.runGoes(cases)}</p>
    </DeleteButton>
  );
}
