import { useState } from "react";
import { useNavigate } from "react-router";
import { useDeleteSite, useSiteHoldings } from "../../api/removal";
import { ActionDialog } from "../../ui/dialog";
import { Holdings } from "../../ui/holdings";
import { say } from "../../words";

/** Deletes a site, after saying what goes with it and having its title typed. */
export function DeleteSite({ site, title }: { site: string; title: string }) {
  const [open, setOpen] = useState(false);
  const [typed, setTyped] = useState("");
  const go = useNavigate();
  const holdings = useSiteHoldings(site, open);
  const remove = useDeleteSite(site, () => go("/"));
  return (
    <>
      <button
        type="button"
        className="button"
        onClick={() => {
          remove.reset();
          setTyped("");
          setOpen(true);
        }}
      >
        {say.removal.deleteThisSite}
      </button>
      <ActionDialog
        open={open}
        close={() => setOpen(false)}
        title={say.removal.deleteSite(title)}
        confirm={say.removal.deleteNow}
        busy={remove.isPending || holdings.isPending || typed.trim() !== title}
        error={remove.error ?? holdings.error}
        act={() => remove.mutate(undefined)}
      >
        <Holdings of={holdings.data} />
        <label className="grid gap-1">
          {say.removal.typeTheTitle(title)}
          <input className="field" autoComplete="off" value={typed} onChange={(e) => setTyped(e.target.value)} />
        </label>
      </ActionDialog>
    </>
  );
}
