import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link } from "react-router";
import { api, keepToken, need } from "../../api/client";
import { useSession } from "../../api/queries";
import { Menu } from "../../ui/menu";
import { usePageTitle } from "../../ui/page-title";
import { Password, PasswordNeeds, Refused } from "../../ui/password";
import { moment } from "../../ui/time";
import { chooseLanguage, type Language, language, languages, say } from "../../words";
import { browserOf } from "./agent";

/** The user's own account: the password is changed here. */
export function AccountPage() {
  const session = useSession();
  usePageTitle(session.data?.name);
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
  const wrong = differ ? say.account.theTwoNewPasswordsAre : change.error?.message;
  return (
    <div className="flex min-h-full flex-col">
      <header className="flex min-h-[75px] shrink-0 flex-wrap items-center justify-between gap-2 py-2 border-b border-line bg-panel px-5">
        <div>
          <h1 className="text-[17px]">
            {session.data?.name}
            {say.account.yourAccount}
          </h1>
          <p className="text-[12.5px] text-soft">
            <Link className="link" to="/">
              {say.account.sites}
            </Link>
          </p>
        </div>
        <Menu />
      </header>
      <main className="flex flex-wrap items-start gap-5 p-5">
        <form onSubmit={submit} className="w-[380px] border border-line bg-panel p-5">
          <h2 className="text-[15px] font-semibold">{say.account.changeYourPassword}</h2>
          <p className="mt-1 text-soft">{say.account.allYourOtherSessionsEnd}</p>
          <input type="text" hidden readOnly autoComplete="username" value={session.data?.name ?? ""} />
          <Password
            label={say.account.currentPassword}
            value={present}
            onChange={setPresent}
            autoComplete="current-password"
          />
          <Password
            label={say.account.newPassword}
            value={fresh}
            onChange={setFresh}
            autoComplete="new-password"
            describedBy="needs"
          />
          <PasswordNeeds id="needs" />
          <Password label={say.account.newPasswordAgain} value={same} onChange={setSame} autoComplete="new-password" />
          {wrong && <Refused id="wrong" text={wrong} />}
          {change.isSuccess && !wrong && (
            <p role="status" className="mt-3">
              {say.account.yourPasswordIsChanged}
            </p>
          )}
          <button type="submit" className="button button-lead mt-5 px-5 py-1.5" disabled={change.isPending}>
            {say.account.changePassword}
          </button>
        </form>
        <Sessions />
        <LanguageChoice />
      </main>
    </div>
  );
}

/** The language of the interface, kept in this browser. */
function LanguageChoice() {
  return (
    <section className="w-[380px] border border-line bg-panel p-5" aria-labelledby="language">
      <h2 id="language" className="text-[15px] font-semibold">
        {say.account.language}
      </h2>
      <select
        aria-label={say.account.language}
        className="field mt-2"
        value={language()}
        onChange={(e) => chooseLanguage(e.target.value as Language)}
      >
        {Object.entries(languages).map(([tag, name]) => (
          <option key={tag} value={tag} lang={tag}>
            {name}
          </option>
        ))}
      </select>
      <p className="mt-2 text-[12.5px] text-soft">{say.account.languageOfFindings}</p>
    </section>
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
      <h2 className="text-[15px] font-semibold">{say.account.yourSessions}</h2>
      <ul className="mt-2 divide-y divide-line border-y border-line">
        {list.map((one) => (
          <li key={one.id} className="flex items-center justify-between gap-3 py-2">
            <div>
              <p>{browserOf(one.agent)}</p>
              <p className="text-[12.5px] text-soft">
                {say.account.from} {one.address || say.account.anUnknownAddress}
                {say.account.since} {moment(one.begun)}
              </p>
            </div>
            {one.here ? (
              <span className="text-soft">{say.account.thisSession}</span>
            ) : (
              <button
                type="button"
                className="button px-3 py-1"
                aria-label={say.account.endTheSessionOfSince(browserOf(one.agent), moment(one.begun))}
                disabled={busy || present === ""}
                onClick={() => {
                  endOthers.reset();
                  endOne.mutate(one.id);
                }}
              >
                {say.account.end}
              </button>
            )}
          </li>
        ))}
      </ul>
      {list.length > 1 && (
        <>
          <p className="mt-3 text-soft">{say.account.enterYourPasswordToEnd}</p>
          <input type="text" hidden readOnly autoComplete="username" value={session.data?.name ?? ""} />
          <Password
            label={say.account.yourPassword}
            value={present}
            onChange={setPresent}
            autoComplete="current-password"
          />
          <button type="submit" className="button mt-4 px-5 py-1.5" disabled={busy || present === ""}>
            {say.account.endAllOthers}
          </button>
        </>
      )}
      {refused && <Refused id="not-ended" text={refused.message} />}
      {(endOthers.isSuccess || endOne.isSuccess) && !refused && (
        <p role="status" className="mt-3">
          {endOthers.isSuccess ? say.account.allYourOtherSessionsHave : say.account.theSessionHasEnded}
        </p>
      )}
    </form>
  );
}
