import { useEffect } from "react";
import { say } from "../words";

/** Names the page in the browser's tab and history, the most telling part first. */
export function usePageTitle(...parts: (string | undefined)[]) {
  const title = [...parts, say.ui.oddTick].filter(Boolean).join(" – ");
  useEffect(() => {
    document.title = title;
  }, [title]);
}
