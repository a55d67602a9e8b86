import { type ReactNode, useState } from "react";
import { say } from "../words";
import { ActionDialog } from "./dialog";

/** A button that deletes something once that is confirmed. */
export function DeleteButton({
  label,
  title,
  remove,
  blocked,
  error,
  onOpen,
  children,
}: {
  label: string;
  title: string;
  remove: {
    mutate: (of: undefined, then: { onSuccess: () => void }) => void;
    reset: () => void;
    isPending: boolean;
    error: unknown;
  };
  /** What must be known or typed before is not yet. */
  blocked?: boolean;
  error?: unknown;
  onOpen?: (open: boolean) => void;
  children: ReactNode;
}) {
  const [open, setOpen] = useState(false);
  const show = (next: boolean) => {
    if (next) remove.reset();
    setOpen(next);
    onOpen?.(next);
  };
  return (
    <>
      <button type="button" className="button" onClick={() => show(true)}>
        {label}
      </button>
      <ActionDialog
        open={open}
        close={() => show(false)}
        title={title}
        confirm={say.removal.deleteNow}
        busy={remove.isPending || blocked}
        error={remove.error ?? error}
        act={() => remove.mutate(undefined, { onSuccess: () => show(false) })}
      >
        {children}
      </ActionDialog>
    </>
  );
}
