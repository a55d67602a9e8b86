import { DropdownMenu } from "radix-ui";
import { ActionMenu } from "./action-menu";

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
    <ActionMenu align="start" wide movesFocus items={items.map((i) => ({ ...i, act: () => onAdd(i.key) }))}>
      <DropdownMenu.Trigger id={id} className="button w-fit">
        {label}
      </DropdownMenu.Trigger>
    </ActionMenu>
  );
}
