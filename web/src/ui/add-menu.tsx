import { DropdownMenu } from "radix-ui";

/** A button that opens a list of what can be added, each with what it means. */
export function AddMenu({
  label,
  items,
  id,
  onAdd,
}: {
  label: string;
  items: { key: string; title: string; help?: string }[];
  id?: string;
  onAdd: (key: string) => void;
}) {
  if (items.length === 0) return null;
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger id={id} className="button w-fit">
        {label}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          sideOffset={2}
          collisionPadding={8}
          className="z-20 max-h-[min(420px,var(--radix-dropdown-menu-content-available-height))] w-[360px] overflow-y-auto border border-rule bg-panel py-1 shadow-lg"
        >
          {items.map((i) => (
            <DropdownMenu.Item
              key={i.key}
              textValue={i.title}
              className="cursor-default px-3 py-1 outline-none data-[highlighted]:bg-ink data-[highlighted]:text-panel"
              onSelect={() => onAdd(i.key)}
            >
              <span className="block font-semibold">{i.title}</span>
              {i.help && <span className="block text-[12px] opacity-80">{i.help}</span>}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
