import type { KeyboardEvent } from "react";
import type { Unusual } from "../api/learned";
import { say } from "../words";
import { type Edit, useEditing } from "./edits";
import { useFormView } from "./form-view";

type Decision = "wrong" | "usual";
type Decided = { promise: string; field?: string; is: Decision };

/** What breaks promises that hold on every form, each with two keys: it is wrong, or as it should be here. The form's document keeps that.
 * before are edits that must be made first, where it has not yet the fields that are spoken of. */
export function UnusualList({ list, before = [] }: { list: Unusual[]; before?: Edit[] }) {
  const form = useFormView();
  const editing = useEditing();
  const decided = ((form.document as { unusual?: Decided[] }).unusual ?? []).map((d) => ({
    ...d,
    field: d.field ?? "",
  }));
  const indexOf = (u: Unusual) => decided.findIndex((d) => d.promise === u.promise && d.field === (u.field ?? ""));
  const decide = async (u: Unusual, is: Decision) => {
    const i = indexOf(u);
    const was = decided[i];
    const value = u.field ? { promise: u.promise, field: u.field, is } : { promise: u.promise, is };
    if (was?.is === is) await editing.apply([{ do: "remove", path: `unusual[${i}]` }]);
    else if (was) await editing.apply([{ do: "set", path: `unusual[${i}].is`, value: is }]);
    else await editing.apply([...before, { do: "insert", path: "unusual", at: -1, value }]);
  };
  const key = (e: KeyboardEvent<HTMLLIElement>, u: Unusual) => {
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    const next = { ArrowDown: "nextElementSibling", ArrowUp: "previousElementSibling" }[e.key] as
      | "nextElementSibling"
      | "previousElementSibling"
      | undefined;
    if (next) (e.currentTarget[next] as HTMLElement | null)?.focus();
    else if (e.key === "w") decide(u, "wrong");
    else if (e.key === "a") decide(u, "usual");
    else return;
    e.preventDefault();
  };
  return (
    <ul aria-label={say.unusual.unusual}>
      {list.map((u) => {
        const is = decided[indexOf(u)]?.is ?? u.decision;
        return (
          <li
            key={`${u.promise} ${u.field ?? ""} ${u.column ?? ""} ${u.rule ?? ""}`}
            tabIndex={0}
            className="border-t border-line py-1.5"
            onKeyDown={(e) => key(e, u)}
          >
            <p className={is === "usual" ? "text-soft" : ""}>
              {is === "wrong" && <span className="font-semibold text-odd">{say.unusual.wrongHere} </span>}
              <bdi className="break-words">{u.words}</bdi>
            </p>
            <p className="mt-1 flex flex-wrap gap-2">
              {(["usual", "wrong"] as const).map((d) => (
                <button
                  key={d}
                  type="button"
                  className={`button ${is === d ? "border-ink font-semibold" : ""}`}
                  aria-pressed={is === d}
                  disabled={editing.busy}
                  onClick={() => decide(u, d)}
                >
                  {say.unusual[d]}{" "}
                  <kbd className="kbd">{d === "usual" ? say.unusual.usualKey : say.unusual.wrongKey}</kbd>
                </button>
              ))}
            </p>
          </li>
        );
      })}
    </ul>
  );
}
