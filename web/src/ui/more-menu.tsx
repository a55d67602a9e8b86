import { DropdownMenu } from "radix-ui";
import type { RefObject } from "react";
import { ActionMenu, type MenuAction } from "./action-menu";

/** A button that opens a list of what else can be done with something. */
export function MoreMenu({
  label,
  items,
  button,
}: {
  label: string;
  items: MenuAction[];
  button?: RefObject<HTMLButtonElement | null>;
}) {
  return (
    <ActionMenu align="end" items={items}>
      <DropdownMenu.Trigger ref={button} className="button px-2" aria-label={label} title={label}>
        <span aria-hidden="true">⋯</span>
      </DropdownMenu.Trigger>
    </ActionMenu>
  );
}
