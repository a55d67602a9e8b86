import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link } from "react-router";
import { api, keepToken, need } from "../api/client";
import { useSession } from "../api/queries";
import { Menu } from "../parts/menu";
import { Password, PasswordNeeds, Refused } from "../parts/password";

/** The user's own account: the password is changed here. */
export function AccountPage() {
  const session = useSession();
  const cache = useQueryClient();
  const [present, setPresent] = useState("");
  const [fresh, setFresh] = useState("");
  const [same, setSame] = useState("");
  const [differ, setDiffer] = useState(false);
  const change = useMutation({
    mutationFn: () => need(api.PUT("/api/session/password", { body: { present, new: fresh } })),
    onSuccess: (now) => {
      keepToken(now.token);
      cache.setQueryData(["session"], now);
      setPresent("");
      setFresh("");
      setSame("");
    },
  });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    setDiffer(fresh !== same);
    if (fresh === same) change.mutate();
  };
  const wrong = differ ? "The two new passwords differ." : change.error?.message;
  return (
    <div className="flex min-h-full flex-col">
      <header className="flex h-[75px] shrink-0 items-center justify-between border-b border-line bg-panel px-5">
        <div>
          <h1 className="text-[17px]">{session.data?.name}: your account</h1>
          <p className="text-[12.5px] text-soft">
            <Link className="link" to="/">
              Sites
            </Link>
          </p>
        </div>
        <Menu />
      </header>
      <main className="flex flex-wrap items-start gap-5 p-5">
        <form onSubmit={submit} className="w-[380px] border border-line bg-panel p-5">
          <h2 className="text-[15px] font-semibold">Change your password</h2>
          <p className="mt-1 text-soft">All your other sessions end.</p>
          <input type="text" hidden readOnly autoComplete="username" value={session.data?.name ?? ""} />
          <Password label="Current password" value={present} onChange={setPresent} autoComplete="current-password" />
          <Password
            label="New password"
            value={fresh}
            onChange={setFresh}
            autoComplete="new-password"
            describedBy="needs"
          />
          <PasswordNeeds id="needs" />
          <Password label="New password again" value={same} onChange={setSame} autoComplete="new-password" />
          {wrong && <Refused id="wrong" text={wrong} />}
          {change.isSuccess && !wrong && (
            <p role="status" className="mt-3">
              Your password is changed.
            </p>
          )}
          <button type="submit" className="button button-lead mt-5 px-5 py-1.5" disabled={change.isPending}>
            Change password
          </button>
        </form>
        <EndOthers />
      </main>
    </div>
  );
}

/** Ends the sessions that are open elsewhere. */
function EndOthers() {
  const session = useSession();
  const cache = useQueryClient();
  const [present, setPresent] = useState("");
  const end = useMutation({
    mutationFn: () => need(api.POST("/api/session/end-others", { body: { present } })),
    onSuccess: (now) => {
      keepToken(now.token);
      cache.setQueryData(["session"], now);
      setPresent("");
    },
  });
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        end.mutate();
      }}
      className="w-[380px] border border-line bg-panel p-5"
    >
      <h2 className="text-[15px] font-semibold">End your other sessions</h2>
      <p className="mt-1 text-soft">Wherever else you are signed in, you are asked to sign in again.</p>
      <input type="text" hidden readOnly autoComplete="username" value={session.data?.name ?? ""} />
      <Password label="Your password" value={present} onChange={setPresent} autoComplete="current-password" />
      {end.error && <Refused id="not-ended" text={end.error.message} />}
      {end.isSuccess && (
        <p role="status" className="mt-3">
          Your other sessions have ended.
        </p>
      )}
      <button type="submit" className="button mt-5 px-5 py-1.5" disabled={end.isPending || present === ""}>
        End them
      </button>
    </form>
  );
}
