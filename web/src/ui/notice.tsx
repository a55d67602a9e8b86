import { useEffect } from "react";
import { Problem } from "../api/client";
import { say } from "../words";
import { keepNotice } from "./notices";

/** Says what went wrong and offers to try again. */
export function Trouble({ error, again }: { error: unknown; again?: () => void }) {
  const text = error instanceof Problem ? error.message : say.ui.somethingWentWrong;
  useEffect(() => keepNotice(text), [text]);
  return (
    <div role="alert" className="m-5 max-w-xl border-l-4 border-unseen bg-panel px-4 py-3">
      <p>{text}</p>
      {again && (
        <button type="button" className="button mt-2" onClick={again}>
          {say.ui.tryAgain}
        </button>
      )}
    </div>
  );
}

export function Waiting({ what }: { what: string }) {
  return (
    <p role="status" className="m-5 text-soft">
      {what}
    </p>
  );
}
