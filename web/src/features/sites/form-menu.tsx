import { useRef, useState } from "react";
import { useSites } from "../../api/queries";
import { useDeleteForm, useDuplicateForm, useFormHoldings, useMoveForm, useRenameForm } from "../../api/removal";
import { idOf } from "../../editing/names";
import { ActionDialog } from "../../ui/dialog";
import { Holdings } from "../../ui/holdings";
import { MoreMenu } from "../../ui/more-menu";
import { say } from "../../words";

type Action = "rename" | "duplicate" | "move" | "delete";

/** What can be done with a form besides working on it: rename, duplicate, move, delete. */
export function FormMenu({ site, form }: { site: string; form: { id: string; title: string; revision: number } }) {
  const at = { site, form: form.id };
  const button = useRef<HTMLButtonElement>(null);
  const [action, setAction] = useState<Action>();
  const [title, setTitle] = useState("");
  const [to, setTo] = useState("");
  const close = () => setAction(undefined);
  const sites = useSites();
  const others = sites.data?.filter((s) => s.id !== site) ?? [];
  const rename = useRenameForm(at, form.revision, close);
  const duplicate = useDuplicateForm(at, close);
  const move = useMoveForm(at, close);
  const remove = useDeleteForm(at, close);
  const holdings = useFormHoldings(at, action === "delete");
  const begin = (next: Action) => {
    for (const one of [rename, duplicate, move, remove]) one.reset();
    setTitle(next === "duplicate" ? say.removal.copyOf(form.title) : form.title);
    setTo(others[0]?.id ?? "");
    setAction(next);
  };
  const w = say.removal;
  const named = (
    <label className="grid gap-1">
      {w.title}
      <input className="field" required maxLength={200} value={title} onChange={(e) => setTitle(e.target.value)} />
    </label>
  );
  const items = [
    { key: "rename", title: w.rename, act: () => begin("rename") },
    { key: "duplicate", title: w.duplicate, act: () => begin("duplicate") },
    ...(others.length > 0 ? [{ key: "move", title: w.move, act: () => begin("move") }] : []),
    { key: "delete", title: w.delete, act: () => begin("delete") },
  ];
  return (
    <>
      <MoreMenu label={w.moreAbout(form.title)} items={items} button={button} />
      <ActionDialog
        open={action === "rename"}
        close={close}
        from={button}
        title={w.renameForm(form.title)}
        confirm={w.renameNow}
        busy={rename.isPending}
        error={rename.error}
        act={() => rename.mutate(title)}
      >
        {named}
      </ActionDialog>
      <ActionDialog
        open={action === "duplicate"}
        close={close}
        from={button}
        title={w.duplicateForm(form.title)}
        confirm={w.duplicateNow}
        busy={duplicate.isPending || idOf(title) === ""}
        error={duplicate.error}
        act={() => duplicate.mutate({ id: idOf(title), title })}
      >
        <p>{w.aCopyHas}</p>
        {named}
      </ActionDialog>
      <ActionDialog
        open={action === "move"}
        close={close}
        from={button}
        title={w.moveForm(form.title)}
        confirm={w.moveNow}
        busy={move.isPending}
        error={move.error}
        act={() => move.mutate(to)}
      >
        <p>{w.itMovesWith}</p>
        <label className="grid gap-1">
          {w.toSite}
          <select className="field" value={to} onChange={(e) => setTo(e.target.value)}>
            {others.map((s) => (
              <option key={s.id} value={s.id}>
                {s.title}
              </option>
            ))}
          </select>
        </label>
      </ActionDialog>
      <ActionDialog
        open={action === "delete"}
        close={close}
        from={button}
        title={w.deleteForm(form.title)}
        confirm={w.deleteNow}
        busy={remove.isPending || holdings.isPending}
        error={remove.error ?? holdings.error}
        act={() => remove.mutate(undefined)}
      >
        <Holdings of={holdings.data} />
      </ActionDialog>
    </>
  );
}
