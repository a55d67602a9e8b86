import { Dialog } from "radix-ui";
import { useEffect, useRef, useState } from "react";

const groups: { about: string; keys: [string[], string][] }[] = [
  {
    about: "Everywhere",
    keys: [
      [["?"], "this list"],
      [["Tab"], "next control"],
      [["Esc"], "close or clear the selection"],
    ],
  },
  {
    about: "Cases",
    keys: [
      [["↑", "↓"], "next or previous field"],
      [["←", "→"], "next or previous tick"],
      [["Home", "End"], "first or last tick of the row"],
      [["Enter"], "open the whole case"],
      [["o"], "to the next odd tick"],
      [["+", "-"], "expand or collapse the field"],
      [["Space"], "select a line of the list"],
      [["Shift", "↓"], "select a range of lines"],
      [["Ctrl", "A"], "select all lines"],
      [["Ctrl", "Enter"], "run these cases"],
    ],
  },
  {
    about: "Form and Rules",
    keys: [
      [["Enter"], "save what was typed"],
      [["Esc"], "cancel"],
      [["Ctrl", "Z"], "undo, when not typing"],
      [["Ctrl", "Y"], "redo"],
      [["Ctrl", "Enter"], "send or trace the values"],
    ],
  },
  {
    about: "Run",
    keys: [
      [["Tab"], "through findings and odd ticks"],
      [["Enter"], "open the case"],
    ],
  },
  {
    about: "Findings",
    keys: [
      [["↑", "↓"], "next or previous finding"],
      [["s"], "to its rule"],
    ],
  },
  {
    about: "By hand",
    keys: [
      [["c"], "copy the next value"],
      [["e"], "as expected"],
      [["o"], "odd: describe it, then Ctrl Enter"],
      [["s"], "not observed"],
    ],
  },
];

/** True when typing goes into a control, so that single keys must be left alone. */
export function typing(e: KeyboardEvent): boolean {
  const t = e.target as HTMLElement | null;
  return !!t && (t.tagName === "INPUT" || t.tagName === "TEXTAREA" || t.tagName === "SELECT" || t.isContentEditable);
}

/** Does something when a key is pressed while nothing is typed. */
export function useKey(key: string, act: () => void) {
  const latest = useRef(act);
  useEffect(() => {
    latest.current = act;
  });
  useEffect(() => {
    const listen = (e: KeyboardEvent) => {
      if (e.key === key && !typing(e) && !e.ctrlKey && !e.metaKey && !e.altKey) latest.current();
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, [key]);
}

export function Kbd({ children }: { children: string }) {
  return <kbd className="kbd">{children}</kbd>;
}

export function KeysDialog() {
  const [open, setOpen] = useState(false);
  useEffect(() => {
    const listen = (e: KeyboardEvent) => {
      if (e.key === "?" && !typing(e)) {
        e.preventDefault();
        setOpen(true);
      }
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger className="button" aria-label="Keys">
        <span aria-hidden>?</span> Keys
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 bg-black/40" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-1/2 left-1/2 w-[560px] -translate-x-1/2 -translate-y-1/2 border border-rule bg-panel p-5"
        >
          <Dialog.Title className="text-lg">Keys</Dialog.Title>
          <div className="mt-3 grid grid-cols-2 gap-5">
            {groups.map((g) => (
              <section key={g.about}>
                <h3>{g.about}</h3>
                <dl className="mt-1 grid grid-cols-[auto_1fr] gap-x-3 gap-y-1">
                  {g.keys.map(([keys, does]) => (
                    <div key={does} className="contents">
                      <dt className="flex gap-1">
                        {keys.map((k) => (
                          <Kbd key={k}>{k}</Kbd>
                        ))}
                      </dt>
                      <dd>{does}</dd>
                    </div>
                  ))}
                </dl>
              </section>
            ))}
          </div>
          <Dialog.Close className="button mt-4">Close</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
