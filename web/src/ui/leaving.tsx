import { type RefObject, useEffect } from "react";
import { useBlocker } from "react-router";
import { say } from "../words";

/** Asks before a view is left whose changes are not saved. Where gone is set, what they belong to is no longer there. */
export function Leaving({ unsaved, gone }: { unsaved: boolean; gone?: RefObject<boolean> }) {
  const blocker = useBlocker(
    ({ currentLocation, nextLocation }) =>
      unsaved && !gone?.current && currentLocation.pathname !== nextLocation.pathname,
  );
  useEffect(() => {
    if (!unsaved) return;
    const ask = (e: BeforeUnloadEvent) => e.preventDefault();
    window.addEventListener("beforeunload", ask);
    return () => window.removeEventListener("beforeunload", ask);
  }, [unsaved]);
  if (blocker.state !== "blocked") return null;
  return (
    <div
      role="alert"
      className="flex flex-wrap items-center gap-3 border-b border-line border-l-4 border-l-unseen bg-panel px-5 py-2"
    >
      <p className="flex-1">{say.document.notSavedYet}</p>
      <button type="button" className="button" onClick={() => blocker.reset()}>
        {say.document.stay}
      </button>
      <button type="button" className="button" onClick={() => blocker.proceed()}>
        {say.document.leave}
      </button>
    </div>
  );
}
