import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link } from "react-router";
import { api, keepToken, need } from "../../api/client";
import { useSession } from "../../api/queries";
import { Menu } from "../../ui/menu";
import { Password, PasswordNeeds, Refused } from "../../ui/password";
import { moment } from "../../ui/time";
import { browserOf } from "./agent";

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
  const wrong = differ ? "The two new passwords are not the same." : change.error?.message;
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
        <Sessions />
      </main>
    </div>
  );
}

/** The user's sessions; those that are open elsewhere are ended here. */
function Sessions() {
  const session = useSession();
  const cache = useQueryClient();
  const all = useQuery({ queryKey: ["sessions"], queryFn: () => need(api.GET("/api/sessions")) });
  const [present, setPresent] = useState("");
  const done = () => {
    setPresent("");
    cache.invalidateQueries({ queryKey: ["sessions"] });
  };
  const endOthers = useMutation({
    mutationFn: () => need(api.POST("/api/sessions/end-others", { body: { present } })),
    onSuccess: (now) => {
      keepToken(now.token);
      cache.setQueryData(["session"], now);
      done();
    },
  });
  const endOne = useMutation({
    mutationFn: (session: string) =>
      need(api.POST("/api/sessions/{session}/end", { params: { path: { session } }, body: { present } })),
    onSuccess: done,
  });
  const list = all.data ?? [];
  const busy = endOthers.isPending || endOne.isPending;
  const refused = endOthers.error ?? endOne.error ?? all.error;
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        endOne.reset();
        endOthers.mutate();
      }}
      className="w-[560px] max-w-full border border-line bg-panel p-5"
    >
      <h2 className="text-[15px] font-semibold">Your sessions</h2>
      <ul className="mt-2 divide-y divide-line border-y border-line">
        {list.map((one) => (
          <li key={one.id} className="flex items-center justify-between gap-3 py-2">
            <div>
              <p>{browserOf(one.agent)}</p>
              <p className="text-[12.5px] text-soft">
                From {one.address || "an unknown address"}, since {moment(one.begun)}
              </p>
            </div>
            {one.here ? (
              <span className="text-soft">This session</span>
            ) : (
              <button
                type="button"
                className="button px-3 py-1"
                aria-label={`End the session of ${browserOf(one.agent)} since ${moment(one.begun)}`}
                disabled={busy || present === ""}
                onClick={() => {
                  endOthers.reset();
                  endOne.mutate(one.id);
                }}
              >
                End
              </button>
            )}
          </li>
        ))}
      </ul>
      {list.length > 1 && (
        <>
          <p className="mt-3 text-soft">Enter your password to end a session. It must then sign in again.</p>
          <input type="text" hidden readOnly autoComplete="username" value={session.data?.name ?? ""} />
          <Password label="Your password" value={present} onChange={setPresent} autoComplete="current-password" />
          <button type="submit" className="button mt-4 px-5 py-1.5" disabled={busy || present === ""}>
            End all others
          </button>
        </>
      )}
      {refused && <Refused id="not-ended" text={refused.message} />}
      {(endOthers.isSuccess || endOne.isSuccess) && !refused && (
        <p role="status" className="mt-3">
          {endOthers.isSuccess ? "All your other sessions have ended." : "The session has ended."}
        </p>
      )}
    </form>
  );
}
