import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { say } from "../words";
import { Tick } from "./tick";

/** What is odd in so many cases that it is said once: its ticks stand upright, so that what is odd besides leans alone. */
export function Widespread({ run, base }: { run?: Schemas["RunBrief"]; base: string }) {
  if (!run || run.widespread.length === 0) return null;
  return (
    <ul className="border-b border-line bg-oddground text-[12.5px]">
      {run.widespread.map((w) => (
        <li key={w.finding} className="flex flex-wrap items-center gap-x-2 px-3 py-1">
          <Tick verdict="odd" height={16} />
          <Link className="link font-semibold" to={`${base}/findings?run=${run.number}&finding=${w.finding}`}>
            {w.headline}
          </Link>
          <span>{say.ui.inSoManyCases(w.cases, run.done)}</span>
        </li>
      ))}
    </ul>
  );
}
