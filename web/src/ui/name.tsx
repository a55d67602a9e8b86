import { say } from "../words";
import { Tick } from "./tick";

/** The product's name with its three ticks. */
export function ProductName() {
  return (
    <h1 className="flex items-end gap-1 text-2xl">
      {say.ui.oddTick}
      <span className="flex pb-1" aria-hidden="true">
        <Tick verdict="as expected" height={20} />
        <Tick verdict="as expected" height={20} />
        <Tick verdict="odd" height={20} />
      </span>
    </h1>
  );
}
