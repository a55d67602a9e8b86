import type { ReactNode } from "react";

/** A control below its label; of several like rows, those after the first keep the label for those who hear it. */
export function Labelled({
  label,
  width = "",
  hiddenInRows = false,
  children,
}: {
  label: string;
  width?: string;
  hiddenInRows?: boolean;
  children: ReactNode;
}) {
  return (
    // biome-ignore lint/a11y/noLabelWithoutControl: the control is the child
    <label className={`grid min-w-0 gap-0.5 ${width}`}>
      <span className={`text-[12px] text-soft ${hiddenInRows ? "md:sr-only" : ""}`}>{label}</span>
      {children}
    </label>
  );
}
