import { useLocation } from "react-router";
import { say } from "../words";

/** What the view at an address is for, and an example; undefined for an address that is no view. */
export function helpFor(path: string) {
  const view = path.split("/").filter(Boolean).at(-1) ?? "sites";
  if (!Object.hasOwn(say.help, view)) return undefined;
  const name = view as keyof typeof say.help;
  return { about: say.help[name], example: say.helpExample[name] };
}

/** Explains the view that is open, in a paragraph with an example. */
export function ViewHelp() {
  const help = helpFor(useLocation().pathname);
  if (!help) return null;
  return (
    <section className="mt-3 border-l-4 border-edge pl-3">
      <h3>{say.ui.aboutThisView}</h3>
      <p>{help.about}</p>
      <p className="mt-1 text-soft">{help.example}</p>
    </section>
  );
}
