import { type FormEvent, useState } from "react";
import { Outlet } from "react-router";
import { Problem } from "../api/client";
import { useSession, useSignIn } from "../api/queries";
import { Trouble, Waiting } from "../parts/notice";
import { Tick } from "../parts/tick";

/** Everything is behind the sign-in; the address one wanted to go to is kept. */
export function Frame() {
  const session = useSession();
  if (session.isPending) return <Waiting what="Opening Odd Tick …" />;
  if (session.isError) {
    if (session.error instanceof Problem && session.error.status === 401) return <SignIn />;
    return <Trouble error={session.error} again={() => session.refetch()} />;
  }
  return <Outlet />;
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
        <h1 className="flex items-end gap-1 text-2xl">
          Odd Tick
          <span className="flex pb-1" aria-hidden="true">
            <Tick verdict="as expected" height={20} />
            <Tick verdict="as expected" height={20} />
            <Tick verdict="odd" height={20} />
          </span>
        </h1>
        <p className="mt-1 text-soft">What a web form promises, and where it does not keep it.</p>
        <label className="mt-5 block font-semibold" htmlFor="name">
          Name
        </label>
        <input
          id="name"
          className="mt-1 w-full border border-rule bg-panel px-2 py-1.5"
          value={name}
          autoComplete="username"
          onChange={(e) => setName(e.target.value)}
          required
        />
        <label className="mt-3 block font-semibold" htmlFor="password">
          Password
        </label>
        <input
          id="password"
          type="password"
          className="mt-1 w-full border border-rule bg-panel px-2 py-1.5"
          value={password}
          autoComplete="current-password"
          aria-describedby={signIn.isError ? "sign-in-error" : undefined}
          onChange={(e) => setPassword(e.target.value)}
          required
        />
        {signIn.isError && (
          <p id="sign-in-error" role="alert" className="mt-3 border-l-4 border-unseen pl-3">
            {signIn.error.message}
          </p>
        )}
        <button type="submit" className="button button-lead mt-5 px-5 py-1.5" disabled={signIn.isPending}>
          Sign in
        </button>
      </form>
    </main>
  );
}
