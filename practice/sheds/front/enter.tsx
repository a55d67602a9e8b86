import { useState } from "react";
import { ask, keep, Problem } from "./api";
import { type Said, Text } from "./fields";

/** Enter signs a tenant in. */
export function Enter({ entered }: { entered: () => void }) {
  const [email, setEmail] = useState("");
  const [password, setPassword] = useState("");
  const [said, setSaid] = useState<Said>({});
  const [alert, setAlert] = useState("");
  const send = async () => {
    setSaid({});
    setAlert("");
    try {
      keep(await ask("POST", "/api/session", { email, password }));
      entered();
    } catch (e) {
      if (e instanceof Problem && e.errors.length > 0) setSaid(Object.fromEntries(e.errors.map((w) => [w.name, w.detail])));
      else setAlert(e instanceof Problem ? e.message : "The association cannot be reached. Please try again.");
    }
  };
  return (
    <>
      <h1>Sign in</h1>
      <form
        noValidate
        onSubmit={(e) => {
          e.preventDefault();
          void send();
        }}
      >
        <Text label="E-mail address" type="email" value={email} onChange={setEmail} error={said.email} autoComplete="username" />
        <Text label="Password" type="password" value={password} onChange={setPassword} error={said.password} autoComplete="current-password" />
        {alert && (
          <p role="alert" className="message">
            {alert}
          </p>
        )}
        <button type="submit" className="main">
          Sign in
        </button>
      </form>
    </>
  );
}
