import { type ReactNode, useRef, useState } from "react";
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
  const actions: Record<
    Action,
    {
      title: string;
      confirm: string;
      change: { isPending: boolean; error: unknown };
      act: () => void;
      content: ReactNode;
      blocked?: boolean;
    }
  > = {
    rename: {
      title: w.renameForm(form.title),
      confirm: w.renameNow,
      change: rename,
      act: () => rename.mutate(title),
      content: named,
    },
    duplicate: {
      title: w.duplicateForm(form.title),
      confirm: w.duplicateNow,
      change: duplicate,
      act: () => duplicate.mutate({ id: idOf(title), title }),
      blocked: idOf(title) === "",
      content: (
        <>
          <p>{w.aCopyHas}</p>
          {named}
        </>
      ),
    },
    move: {
      title: w.moveForm(form.title),
      confirm: w.moveNow,
      change: move,
      act: () => move.mutate(to),
      content: (
        <>
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
        </>
      ),
    },
    delete: {
      title: w.deleteForm(form.title),
      confirm: w.deleteNow,
      change: { isPending: remove.isPending, error: remove.error ?? holdings.error },
      act: () => remove.mutate(undefined),
      blocked: holdings.isPending,
      content: <Holdings of={holdings.data} />,
    },
  };
  const items = (["rename", "duplicate", "move", "delete"] as const)
    .filter((key) => key !== "move" || others.length > 0)
    .map((key) => ({ key, title: w[key], act: () => begin(key) }));
  const chosen = action && actions[action];
  return (
    <>
      <MoreMenu label={w.moreAbout(form.title)} items={items} button={button} />
      <ActionDialog
        open={!!chosen}
        close={close}
        from={button}
        title={chosen?.title ?? ""}
        confirm={chosen?.confirm ?? ""}
        busy={chosen?.change.isPending || chosen?.blocked}
        error={chosen?.change.error}
        act={() => chosen?.act()}
      >
        {chosen?.content}
      </ActionDialog>
    </>
  );
}
