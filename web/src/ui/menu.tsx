import { useState } from "react";
import { Link } from "react-router";
import { useSession, useSignOut } from "../api/queries";
import { KeysDialog } from "./keys";
import { applyTheme, type Theme, theme } from "./theme";

/** Keys, theme, the account and signing out, small, at the end of a page's head. */
export function Menu() {
  const session = useSession();
  const signOut = useSignOut();
  const [chosen, setChosen] = useState<Theme>(theme());
  const choose = (t: Theme) => {
    setChosen(t);
    applyTheme(t);
  };
  return (
    <div className="flex items-center gap-2 text-[12.5px]">
      <KeysDialog />
      <select aria-label="Theme" className="button" value={chosen} onChange={(e) => choose(e.target.value as Theme)}>
        <option value="system">System theme</option>
        <option value="light">Light theme</option>
        <option value="dark">Dark theme</option>
      </select>
      <Link className="button max-w-[16ch] truncate" to="/account" title={`${session.data?.name}: your account`}>
        {session.data?.name}
      </Link>
      <button type="button" className="button" onClick={() => signOut.mutate()}>
        Sign out
      </button>
    </div>
  );
}
