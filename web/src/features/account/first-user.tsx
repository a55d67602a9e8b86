import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link, useLocation, useNavigate } from "react-router";
import { api, keepToken, need } from "../../api/client";
import { ProductName } from "../../ui/name";
import { Waiting } from "../../ui/notice";
import { Password, PasswordNeeds, Refused } from "../../ui/password";
import { say } from "../../words";

/** Where the link leads that oddtick serve prints while there is no user. What the link holds stays behind #, out of every log. */
export function FirstUserPage() {
  const link = useLocation().hash.slice(1);
  const cache = useQueryClient();
  const go = useNavigate();
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const [same, setSame] = useState("");
  const [differ, setDiffer] = useState(false);
  const works = useQuery({
    queryKey: ["first-user", link],
    queryFn: async () => {
      await need(api.POST("/api/first-user/link", { body: { link } }));
      return true;
    },
  });
  const add = useMutation({
    mutationFn: () => need(api.POST("/api/first-user", { body: { link, name, password } })),
    onSuccess: (session) => {
      keepToken(session.token);
      cache.setQueryData(["session"], session);
      go("/", { replace: true });
    },
  });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    setDiffer(password !== same);
    if (password === same) add.mutate();
  };
  if (works.isPending) return <Waiting what={say.account.checkingTheLink} />;
  const wrong = differ ? say.account.theTwoPasswordsAreNot : add.error?.message;
  return (
    <main className="flex h-full items-center justify-center">
      <div className="w-[380px] border border-line bg-panel p-7">
        <ProductName />
        {works.isError ? (
          <>
            <p role="alert" className="mt-4 border-l-4 border-unseen pl-3">
              {works.error.message}
            </p>
            <p className="mt-4">
              <Link className="link" to="/">
                {say.account.signIn}
              </Link>
            </p>
          </>
        ) : (
          <form onSubmit={submit}>
            <p className="mt-1 text-soft">{say.account.youAreTheFirstUser}</p>
            <label className="mt-5 block font-semibold" htmlFor="name">
              {say.account.name}
            </label>
            <input
              id="name"
              className="mt-1 w-full border border-rule bg-panel px-2 py-1.5"
              value={name}
              autoComplete="username"
              maxLength={60}
              onChange={(e) => setName(e.target.value)}
              required
            />
            <Password
              label={say.account.password}
              value={password}
              onChange={setPassword}
              autoComplete="new-password"
              describedBy="needs"
            />
            <PasswordNeeds id="needs" />
            <Password label={say.account.passwordAgain} value={same} onChange={setSame} autoComplete="new-password" />
            {wrong && <Refused id="wrong" text={wrong} />}
            <button type="submit" className="button button-lead mt-5 px-5 py-1.5" disabled={add.isPending}>
              {say.account.createAccount}
            </button>
          </form>
        )}
      </div>
    </main>
  );
}
