import { useEffect, useState } from "react";
import { ask, on, Problem } from "./api";
import { Cards, type Said, Text, Toggle, useNotice } from "./fields";

const CONTACTS = [
  { code: "email", name: "By e-mail" },
  { code: "phone", name: "By telephone" },
  { code: "post", name: "By post" },
];

type Details = { shownName: string; phone: string | null; contact: string; newsletter: boolean };

/** grouped writes a telephone number in groups. */
const grouped = (text: string) => {
  const d = text.replace(/\D/g, "").slice(0, 11);
  return [d.slice(0, 5), d.slice(5, 8), d.slice(8)].filter(Boolean).join(" ");
};

/** OwnDetails are a tenant's own details. */
export function OwnDetails() {
  const [v, setV] = useState<Details | null>(null);
  const [said, setSaid] = useState<Said>({});
  const [notice, say] = useNotice(2500);
  const [alert, setAlert] = useState("");
  const [busy, setBusy] = useState(false);
  useEffect(() => {
    ask<Details>("GET", "/api/me").then(setV, () => setAlert("The association cannot be reached. Please try again."));
  }, []);
  if (!v) return alert ? <p role="alert">{alert}</p> : <p>Loading …</p>;
  const set = (change: Partial<Details>) => {
    setV({ ...v, ...change });
    setSaid(Object.fromEntries(Object.entries(said).filter(([field]) => !(field in change))));
  };
  const save = async () => {
    setBusy(true);
    setSaid({});
    setAlert("");
    say("Your details are saved."); // taken back where they are not
    try {
      await ask("PUT", "/api/me", { ...v, phone: (v.phone ?? "").replace(/\D/g, "") });
    } catch (e) {
      if (!on("details-saved-early")) say("");
      if (e instanceof Problem && e.errors.length > 0) setSaid(Object.fromEntries(e.errors.map((w) => [w.name, w.detail])));
      else setAlert("The association cannot be reached. Please try again.");
    }
    setBusy(false);
  };
  return (
    <>
      <h1>Your details</h1>
      {notice && (
        <p role="status" className="notice">
          {notice}
        </p>
      )}
      <form
        noValidate
        onSubmit={(e) => {
          e.preventDefault();
          void save();
        }}
      >
        <Text label="Name that others see" value={v.shownName} onChange={(shownName) => set({ shownName })} error={said.shownName} />
        <Text label="Telephone" type="tel" value={grouped(v.phone ?? "")} onChange={(phone) => set({ phone: grouped(phone) })} error={said.phone} />
        <Cards label="How to reach you" choices={CONTACTS} value={v.contact} onChange={(contact) => set({ contact })} error={said.contact} />
        <Toggle label="Newsletter" value={v.newsletter} onChange={(newsletter) => set({ newsletter })} />
        {alert && (
          <p role="alert" className="message">
            {alert}
          </p>
        )}
        <button type="submit" className="main" disabled={busy}>
          Save
        </button>
      </form>
    </>
  );
}
