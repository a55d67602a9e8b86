import { Dialog } from "radix-ui";
import { useEffect, useRef, useState } from "react";
import { say } from "../words";
import { ViewHelp } from "./help";
import { useNotices } from "./notices";

const groups: { about: string; keys: [string[], string][] }[] = [
  {
    about: say.ui.everywhere,
    keys: [
      [["?"], say.ui.thisHelp],
      [["/"], say.ui.openSearch],
      [["Tab"], say.ui.nextControl],
      [["Esc"], say.ui.closeOrClearTheSelection],
    ],
  },
  {
    about: say.ui.cases,
    keys: [
      [["↑", "↓"], say.ui.nextOrPreviousField],
      [["←", "→"], say.ui.nextOrPreviousTick],
      [["Home", "End"], say.ui.firstOrLastTickOf],
      [["Enter"], say.ui.openTheWholeCase],
      [["o"], say.ui.toTheNextOddTick],
      [["+", "-"], say.ui.expandOrCollapseTheField],
      [["Space"], say.ui.selectALineOfThe],
      [["Shift", "↓"], say.ui.selectARangeOfLines],
      [["Ctrl", "A"], say.ui.selectAllLines],
      [["Ctrl", "Enter"], say.ui.runTheseCases],
    ],
  },
  {
    about: say.ui.formAndRules,
    keys: [
      [["Enter"], say.ui.saveWhatWasTyped],
      [["Esc"], say.ui.cancelIt],
      [["Ctrl", "Z"], say.ui.undoWhenNotTyping],
      [["Ctrl", "Y"], say.ui.redoIt],
      [["Ctrl", "Enter"], say.ui.sendOrTraceTheValues],
    ],
  },
  {
    about: say.ui.run,
    keys: [
      [["Tab"], say.ui.throughFindingsAndOddTicks],
      [["Enter"], say.ui.openTheCase],
    ],
  },
  {
    about: say.ui.findings,
    keys: [
      [["↑", "↓"], say.ui.nextOrPreviousFinding],
      [["s"], say.ui.toItsRule],
    ],
  },
  {
    about: say.ui.byHand,
    keys: [
      [["c"], say.ui.copyTheNextValue],
      [["e"], say.ui.asExpectedKey],
      [["o"], say.ui.oddDescribeItThenCtrl],
      [["s"], say.ui.notObservedKey],
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
      if (e.key !== key || typing(e) || e.ctrlKey || e.metaKey || e.altKey) return;
      e.preventDefault();
      latest.current();
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
  useKey("?", () => setOpen(true));
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger className="button">
        <span aria-hidden>?</span> {say.ui.help}
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-20 bg-black/40" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-1/2 left-1/2 z-30 max-h-[92vh] w-[min(640px,94vw)] -translate-x-1/2 -translate-y-1/2 overflow-y-auto border border-rule bg-panel p-5"
        >
          <Dialog.Title className="text-lg">{say.ui.helpAndKeys}</Dialog.Title>
          <ViewHelp />
          <div className="mt-4 grid gap-5 sm:grid-cols-2">
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
          <ToldBefore />
          <Dialog.Close className="button mt-4">{say.ui.close}</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** Keys that do what a control does, beside its words. */
export function Keys({ keys }: { keys: string[] }) {
  return (
    <span aria-hidden="true" className="ml-1.5 whitespace-nowrap">
      {keys.map((k) => (
        <kbd key={k} className="kbd text-ink">
          {k}
        </kbd>
      ))}
    </span>
  );
}

/** What was told in this tab, to be read again. */
function ToldBefore() {
  const notices = useNotices();
  if (notices.length === 0) return null;
  return (
    <section className="mt-4">
      <h3>{say.ui.noticesOfThisTab}</h3>
      <ul className="mt-1 grid gap-0.5">
        {notices.map((n) => (
          <li key={n.at + n.text} className="flex gap-3">
            <time dateTime={n.at} className="value shrink-0 text-soft">
              {new Date(n.at).toLocaleTimeString()}
            </time>
            <span className="min-w-0 break-words">{n.text}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
