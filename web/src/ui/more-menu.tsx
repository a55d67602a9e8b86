import { DropdownMenu } from "radix-ui";
import type { RefObject } from "react";

/** A button that opens a list of what else can be done with something. */
export function MoreMenu({
  label,
  items,
  button,
}: {
  label: string;
  items: { key: string; title: string; act: () => void }[];
  button?: RefObject<HTMLButtonElement | null>;
}) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger ref={button} className="button px-2" aria-label={label} title={label}>
        <span aria-hidden="true">⋯</span>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={2}
          collisionPadding={8}
          className="z-20 min-w-[180px] border border-rule bg-panel py-1 shadow-lg"
        >
          {items.map((i) => (
            <DropdownMenu.Item
              key={i.key}
              className="cursor-default px-3 py-1.5 outline-none data-[highlighted]:bg-ink data-[highlighted]:text-panel"
              onSelect={i.act}
            >
              {i.title}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
