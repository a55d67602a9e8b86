import type { ReactNode } from "react";
import { say } from "../words";

/** The bar below a page's head: what is shown, what is said of it, and what can be done. It wraps where it is narrow. */
export function Toolbar({ children }: { children: ReactNode }) {
  return (
    <section
      aria-label={say.ui.viewsAndActions}
      className="flex min-h-[38px] shrink-0 flex-wrap items-center gap-x-3 gap-y-1 border-b border-line bg-ground px-3 py-1 text-[12.5px] text-soft"
    >
      {children}
    </section>
  );
}

/** Buttons of which one is pressed: what a view shows. */
export function Views<T extends string>({
  label,
  views,
  shown,
  show,
  blocked,
  children,
}: {
  label: string;
  views: readonly (readonly [T, string])[];
  shown: T | "";
  show: (view: T) => void;
  /** Why the others cannot be shown now. */
  blocked?: string;
  /** What stands with them: links to pages of their own. */
  children?: ReactNode;
}) {
  return (
    <fieldset className="flex flex-wrap gap-1" aria-label={label}>
      {views.map(([view, title]) => (
        <button
          key={view}
          type="button"
          className={`button ${shown === view ? "border-ink font-semibold" : ""}`}
          aria-pressed={shown === view}
          disabled={blocked !== undefined && shown !== view}
          title={shown === view ? undefined : blocked}
          onClick={() => show(view)}
        >
          {title}
        </button>
      ))}
      {children}
    </fieldset>
  );
}
