import { useState } from "react";
import { useNavigate } from "react-router";
import type { FormAt } from "../../api/client";
import { useDeleteRun } from "../../api/removal";
import { ActionDialog } from "../../ui/dialog";
import { say } from "../../words";

/** Deletes a run that has ended, once that is confirmed. */
export function DeleteRun({ at, run, cases }: { at: FormAt; run: number; cases: number }) {
  const [open, setOpen] = useState(false);
  const go = useNavigate();
  const remove = useDeleteRun(at, run, () => {
    setOpen(false);
    go(`/sites/${at.site}/forms/${at.form}/run`, { replace: true });
  });
  return (
    <>
      <button
        type="button"
        className="button"
        onClick={() => {
          remove.reset();
          setOpen(true);
        }}
      >
        {say.removal.deleteThisRun}
      </button>
      <ActionDialog
        open={open}
        close={() => setOpen(false)}
        title={say.removal.deleteRun(run)}
        confirm={say.removal.deleteNow}
        busy={remove.isPending}
        error={remove.error}
        act={() => remove.mutate(undefined)}
      >
        <p>{say.removal.runGoes(cases)}</p>
      </ActionDialog>
    </>
  );
}
