import { Dialog } from "radix-ui";
import { type FormEvent, type ReactNode, type RefObject, useId } from "react";
import { say } from "../words";
import { Trouble } from "./notice";

/** A dialog that does one thing when it is confirmed: a few controls, what went wrong, and the way back. Focus returns to whence it came. */
export function ActionDialog({
  open,
  close,
  title,
  confirm,
  act,
  busy,
  error,
  from,
  children,
}: {
  open: boolean;
  close: () => void;
  title: string;
  confirm: string;
  act: () => void;
  busy?: boolean;
  error?: unknown;
  /** Where the focus goes back to, where that is not what opened the dialog: the button of a menu. */
  from?: RefObject<HTMLElement | null>;
  children: ReactNode;
}) {
  const text = useId();
  const goBack = (e: Event) => {
    if (!from) return;
    e.preventDefault();
    // something else was opened or reached meanwhile
    if (document.activeElement && document.activeElement !== document.body) return;
    const main = document.querySelector("main");
    if (from.current?.isConnected) from.current.focus();
    else if (main) {
      // what the dialog was about is gone
      if (!main.hasAttribute("tabindex")) main.tabIndex = -1;
      main.focus();
    }
  };
  const submit = (e: FormEvent) => {
    e.preventDefault();
    act();
  };
  return (
    <Dialog.Root open={open} onOpenChange={(o) => !o && close()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-20 bg-black/40" />
        <Dialog.Content
          aria-describedby={text}
          onCloseAutoFocus={goBack}
          className="fixed top-1/2 left-1/2 z-30 max-h-[90vh] w-[min(520px,94vw)] -translate-x-1/2 -translate-y-1/2 overflow-y-auto border border-rule bg-panel p-5"
        >
          <Dialog.Title className="text-[16px] font-semibold">{title}</Dialog.Title>
          <form onSubmit={submit}>
            <div id={text} className="mt-2 grid gap-2">
              {children}
            </div>
            {error !== undefined && error !== null && <Trouble error={error} />}
            <div className="mt-4 flex gap-2">
              <button type="submit" className="button button-lead" disabled={busy}>
                {confirm}
              </button>
              <Dialog.Close className="button">{say.ui.cancel}</Dialog.Close>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
