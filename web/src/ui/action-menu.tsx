import { DropdownMenu } from "radix-ui";
import { type ReactNode, useRef, useState } from "react";

export type MenuAction = { key: string; title: string; help?: string; act: () => void };

/** A list of actions that opens below its trigger; where each is explained, it is wide. */
export function ActionMenu({
  align,
  wide,
  movesFocus,
  items,
  children,
}: {
  align: "start" | "end";
  wide?: boolean;
  /** Whether an action takes the focus elsewhere, so that it does not go back to the trigger. */
  movesFocus?: boolean;
  items: MenuAction[];
  /** The menu's trigger. */
  children: ReactNode;
}) {
  const [open, setOpen] = useState(false);
  const acted = useRef(false);
  return (
    // the page behind it stays reachable for those who hear it, and the list is within its landmark
    <DropdownMenu.Root modal={false} open={open} onOpenChange={setOpen}>
      {children}
      <DropdownMenu.Portal container={document.querySelector("main")}>
        <DropdownMenu.Content
          align={align}
          sideOffset={2}
          collisionPadding={8}
          tabIndex={0} // a list that is longer than the window is scrolled by keys as well
          onCloseAutoFocus={(e) => {
            if (movesFocus && acted.current) e.preventDefault();
            acted.current = false;
          }}
          className={`z-20 max-h-[min(420px,var(--radix-dropdown-menu-content-available-height))] max-w-[94vw] overflow-y-auto border border-rule bg-panel py-1 shadow-lg ${wide ? "w-[360px]" : "min-w-[180px]"}`}
        >
          {items.map((i) => (
            <DropdownMenu.Item
              key={i.key}
              textValue={i.title}
              className="cursor-default px-3 py-1 outline-none data-[highlighted]:bg-ink data-[highlighted]:text-panel"
              onSelect={() => {
                acted.current = true;
                i.act();
              }}
            >
              <span className={wide ? "block font-semibold" : "block"}>{i.title}</span>
              {i.help && <span className="block text-[12px] opacity-80">{i.help}</span>}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
