import { useState } from "react";
import { useNavigate } from "react-router";
import { useDeleteSite, useSiteHoldings } from "../../api/removal";
import { DeleteButton } from "../../ui/delete-button";
import { Holdings } from "../../ui/holdings";
import { say } from "../../words";

/** Deletes a site, after saying what goes with it and having its title typed. */
export function DeleteSite({ site, title, onDeleted }: { site: string; title: string; onDeleted: () => void }) {
  const [open, setOpen] = useState(false);
  const [typed, setTyped] = useState("");
  const go = useNavigate();
  const holdings = useSiteHoldings(site, open);
  const remove = useDeleteSite(site, () => {
    onDeleted();
    go("/");
  });
  return (
    <DeleteButton
      label={say.removal.deleteThisSite}
      title={say.removal.deleteSite(title)}
      remove={remove}
      blocked={holdings.isPending || typed.trim() !== title}
      error={holdings.error}
      onOpen={(next) => {
        setTyped("");
        setOpen(next);
      }}
    >
      <Holdings of={holdings.data} />
      <label className="grid gap-1">
        {say.removal.typeTheTitle(title)}
        <input className="field" autoComplete="off" value={typed} onChange={(e) => setTyped(e.target.value)} />
      </label>
    </DeleteButton>
  );
}
