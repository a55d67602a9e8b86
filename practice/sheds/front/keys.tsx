import { Checkbox, Dialog } from "radix-ui";
import { useEffect, useId, useState } from "react";
import { ask, on, Problem } from "./api";
import { Calendar, type Choice, Chooser, Text, useLater } from "./fields";

const EMAIL = /^[^\s@"]+@[^\s@"._-]([^\s@"_]*[^\s@"._-])?$/;

type Values = { fullName: string; email: string; plot: string; keys: string; collectOn: string; reason: string; rules: boolean };
const BLANK: Values = { fullName: "", email: "", plot: "", keys: "1", collectOn: "", reason: "", rules: false };

/** wrongWith says what the page itself finds wrong. */
function wrongWith(v: Values): Partial<Record<keyof Values, string>> {
  const out: Partial<Record<keyof Values, string>> = {};
  const name = v.fullName.trim();
  if (name === "") out.fullName = "Enter your name.";
  else if ([...name].length > 60) out.fullName = "Use at most 60 characters.";
  if (v.email.trim() === "") out.email = "Enter your e-mail address.";
  else if (!EMAIL.test(v.email.trim())) out.email = "This is not an e-mail address.";
  if (v.plot === "") out.plot = "Choose your plot.";
  if (v.keys.trim() === "") out.keys = "Say how many keys you need.";
  else if (!/^[1-3]$/.test(v.keys.trim())) out.keys = "You can have 1 to 3 keys.";
  if (v.collectOn === "") out.collectOn = "Choose a day.";
  if ([...v.reason.trim()].length > 300) out.reason = "Use at most 300 characters.";
  if (!v.rules) out.rules = "Accept the rules of the key cupboard.";
  return out;
}

function dayBefore(day: string): string {
  const d = new Date(`${day}T00:00:00Z`);
  d.setUTCDate(d.getUTCDate() - 1);
  return d.toISOString().slice(0, 10);
}

function Request({ plots, done }: { plots: Choice[]; done: (v: Values) => void }) {
  const [v, setV] = useState(BLANK);
  const [left, setLeft] = useState<Partial<Record<keyof Values, boolean>>>({});
  const [server, setServer] = useState<Partial<Record<string, string>>>({});
  const [taken, setTaken] = useState(false);
  const [alert, setAlert] = useState("");
  const [stuckName, setStuckName] = useState("");
  const [busy, setBusy] = useState(false);
  const [thanks, setThanks] = useState(false);
  const rulesID = useId();
  const email = useLater(v.email.trim(), 250);
  useEffect(() => {
    setTaken(false);
    if (!EMAIL.test(email) || on("keys-taken-silent")) return;
    let current = true;
    ask<{ free: boolean }>("GET", `/api/keys/free?email=${encodeURIComponent(email)}`).then(
      (a) => current && setTaken(!a.free),
      () => {},
    );
    return () => {
      current = false;
    };
  }, [email]);
  const wrong = wrongWith(v);
  const set = (change: Partial<Values>) => {
    setV({ ...v, ...change });
    setServer(Object.fromEntries(Object.entries(server).filter(([name]) => !(name in change))));
  };
  const leave = (name: keyof Values) => () => {
    setLeft({ ...left, [name]: true });
    if (name === "fullName" && wrong.fullName && on("keys-message-stays")) setStuckName(wrong.fullName);
  };
  const said = (name: keyof Values) =>
    server[name] ??
    (left[name] ? wrong[name] : undefined) ??
    (name === "email" && taken ? "This address already has a key." : undefined) ??
    (name === "fullName" && stuckName !== "" ? stuckName : undefined);
  const valid = Object.keys(wrong).length === 0 && !taken && !(on("keys-button-dead") && v.keys === "3");
  const send = async () => {
    if (busy && !on("keys-twice")) return;
    setAlert("");
    setBusy(true);
    if (on("keys-thanks-early")) setThanks(true);
    try {
      await ask("POST", "/api/keys", {
        ...v,
        keys: Number(v.keys),
        collectOn: on("keys-day-shifted") ? dayBefore(v.collectOn) : v.collectOn,
      });
      done(v);
    } catch (e) {
      setBusy(false);
      if (!(e instanceof Problem)) {
        if (!on("keys-network-silent")) setAlert("The key cupboard cannot be reached. Please try again.");
        return;
      }
      if (e.errors.length === 0) setAlert(e.status === 401 ? "Please sign in." : "The key cupboard cannot be reached. Please try again.");
      if (!on("keys-taken-silent") || e.errors.some((w) => w.name !== "email")) setServer(Object.fromEntries(e.errors.map((w) => [w.name, w.detail])));
    }
  };
  return (
    <form
      noValidate
      onSubmit={(e) => {
        e.preventDefault();
        void send();
      }}
    >
      {thanks && <p role="status">Thank you, {v.fullName.trim()}. Your keys are ready on the day you chose.</p>}
      <Text label="Full name" value={v.fullName} onChange={(fullName) => set({ fullName })} onBlur={leave("fullName")} error={said("fullName")} faint={on("keys-message-faint")} />
      <Text
        label="E-mail address"
        type="email"
        value={v.email}
        onChange={(e) => set({ email: e })}
        onBlur={leave("email")}
        error={said("email")}
        untied={on("keys-message-untied")}
      />
      <Chooser label="Plot" choices={plots} value={v.plot} onChange={(plot) => set({ plot })} error={said("plot")} />
      <Text label="Number of keys" value={v.keys} onChange={(keys) => set({ keys })} onBlur={leave("keys")} error={said("keys")} />
      <Calendar label="Day of collection" value={v.collectOn} onChange={(collectOn) => set({ collectOn })} error={said("collectOn")} />
      <Text label="Reason" lines={3} value={v.reason} onChange={(reason) => set({ reason })} onBlur={leave("reason")} error={said("reason")} />
      <div className="field row">
        <Checkbox.Root id={rulesID} className="box" checked={v.rules} onCheckedChange={(c) => set({ rules: c === true })}>
          <Checkbox.Indicator>✓</Checkbox.Indicator>
        </Checkbox.Root>
        <label htmlFor={rulesID}>I accept the rules of the key cupboard</label>
      </div>
      {server.rules && <p className="message">{server.rules}</p>}
      {alert && (
        <p role="alert" className="message">
          {alert}
        </p>
      )}
      <button type="submit" className="main" disabled={!valid}>
        Ask for keys
      </button>
    </form>
  );
}

/** Keys is the page of the key cupboard, with the request in a dialog. */
export function Keys({ plots }: { plots: Choice[] }) {
  const [open, setOpen] = useState(false);
  const [done, setDone] = useState<Values | null>(null);
  return (
    <>
      <h1>Key cupboard</h1>
      <p>Each plot has a shed, and each shed a lock. Keys are handed out on the day that you choose.</p>
      {done && <p role="status">Thank you, {done.fullName.trim()}. Your keys are ready on the day you chose.</p>}
      <Dialog.Root open={open} onOpenChange={setOpen}>
        <Dialog.Trigger className="main">Ask for a key</Dialog.Trigger>
        <Dialog.Portal>
          <Dialog.Overlay className="veil" />
          <Dialog.Content className="dialog" aria-describedby={undefined}>
            <Dialog.Title>Ask for a key</Dialog.Title>
            <Request
              plots={plots}
              done={(v) => {
                setOpen(false);
                setDone(v);
              }}
            />
            <Dialog.Close className="close" aria-label="Close">
              ×
            </Dialog.Close>
          </Dialog.Content>
        </Dialog.Portal>
      </Dialog.Root>
    </>
  );
}
