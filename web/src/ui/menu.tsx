import { useState } from "react";
import { Link } from "react-router";
import { useSession, useSignOut } from "../api/queries";
import { say } from "../words";
import { KeysDialog } from "./keys";
import { forgetNotices } from "./notices";
import { Search } from "./search";
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
    <div className="flex flex-wrap items-center gap-2 text-[12.5px]">
      <Search />
      <KeysDialog />
      <select
        aria-label={say.ui.theme}
        className="button"
        value={chosen}
        onChange={(e) => choose(e.target.value as Theme)}
      >
        <option value="system">{say.ui.systemTheme}</option>
        <option value="light">{say.ui.lightTheme}</option>
        <option value="dark">{say.ui.darkTheme}</option>
      </select>
      <Link className="button max-w-[16ch] truncate" to="/account" title={say.ui.yourAccount(session.data?.name)}>
        {session.data?.name}
      </Link>
      <button type="button" className="button" onClick={() => signOut.mutate(undefined, { onSuccess: forgetNotices })}>
        {say.ui.signOut}
      </button>
    </div>
  );
}
