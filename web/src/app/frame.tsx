import { type FormEvent, useState } from "react";
import { Outlet } from "react-router";
import { Problem } from "../api/client";
import { useSession, useSignIn } from "../api/queries";
import { ProductName } from "../ui/name";
import { Trouble, Waiting } from "../ui/notice";
import { Password, Refused } from "../ui/password";
import { say } from "../words";

/** Everything is behind the sign-in; the address one wanted to go to is kept. */
export function Frame() {
  const session = useSession();
  if (session.isPending) return <Waiting what={say.app.openingOddTick} />;
  if (session.isError) {
    if (session.error instanceof Problem && session.error.status === 401) return <SignIn />;
    return <Trouble error={session.error} again={() => session.refetch()} />;
  }
  return (
    <>
      <button
        type="button"
        className="sr-only focus:not-sr-only focus:absolute focus:z-30 focus:bg-ink focus:px-4 focus:py-2 focus:text-panel"
        onClick={() => {
          const main = document.querySelector("main");
          if (!main) return;
          if (!main.hasAttribute("tabindex")) main.tabIndex = -1;
          main.focus();
        }}
      >
        {say.app.skipToTheContent}
      </button>
      <Outlet />
    </>
  );
}

function SignIn() {
  const signIn = useSignIn();
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const submit = (e: FormEvent) => {
    e.preventDefault();
    signIn.mutate({ name, password });
  };
  return (
    <main className="flex h-full items-center justify-center">
      <form onSubmit={submit} className="w-[340px] border border-line bg-panel p-7">
        <ProductName />
        <p className="mt-1 text-soft">{say.app.whatAWebFormPromises}</p>
        <label className="mt-5 block font-semibold" htmlFor="name">
          {say.app.name}
        </label>
        <input
          id="name"
          className="mt-1 w-full border border-rule bg-panel px-2 py-1.5"
          value={name}
          autoComplete="username"
          onChange={(e) => setName(e.target.value)}
          required
        />
        <Password
          label={say.app.password}
          value={password}
          onChange={setPassword}
          autoComplete="current-password"
          describedBy={signIn.isError ? "sign-in-error" : undefined}
        />
        {signIn.isError && <Refused id="sign-in-error" text={signIn.error.message} />}
        <button type="submit" className="button button-lead mt-5 px-5 py-1.5" disabled={signIn.isPending}>
          {say.app.signIn}
        </button>
      </form>
    </main>
  );
}
