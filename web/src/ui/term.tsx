import { Tooltip } from "radix-ui";
import type { ReactNode } from "react";
import { say } from "../words";

export type TermName = keyof typeof say.terms;

/** A word of the trade or of our own, which is explained on hover and on focus. */
export function Term({ of, children }: { of: TermName; children: ReactNode }) {
  return (
    <Tooltip.Provider delayDuration={250}>
      <Tooltip.Root>
        <Tooltip.Trigger type="button" className="term">
          {children}
        </Tooltip.Trigger>
        <Tooltip.Portal>
          <Tooltip.Content
            sideOffset={4}
            collisionPadding={8}
            className="z-40 max-w-[300px] border border-ink bg-panel px-2.5 py-1.5 text-[12.5px] leading-snug text-ink"
          >
            {say.terms[of]}
          </Tooltip.Content>
        </Tooltip.Portal>
      </Tooltip.Root>
    </Tooltip.Provider>
  );
}
