import type { ReactNode } from "react";

/** A view that has nothing to show yet: why, and the next step. */
export function Empty({ title, text, children }: { title: string; text?: string; children?: ReactNode }) {
  return (
    <main className="m-8 max-w-[60ch]">
      <h2 className="text-lg">{title}</h2>
      {text && <p className="mt-1">{text}</p>}
      {children && <div className="mt-3 flex flex-wrap gap-2">{children}</div>}
    </main>
  );
}
