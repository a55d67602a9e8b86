import { useEffect, useState } from "react";
import { ask, on, Problem } from "./api";
import { Calendar, Cards, Chips, type Choice, Drop, Finder, Height, type Said, Text, Toggle, useLater } from "./fields";

const SIZES = [
  { code: "small", name: "Small", more: "4 m²" },
  { code: "middle", name: "Middle", more: "6 m²" },
  { code: "large", name: "Large", more: "9 m²" },
];
const USES = [
  { code: "tools", name: "Tools" },
  { code: "bikes", name: "Bicycles" },
  { code: "seeds", name: "Seedlings" },
  { code: "bees", name: "Beekeeping" },
];

type Values = { shedName: string; plot: string; size: string; height: number; power: boolean; uses: string[]; startsOn: string; note: string; drawing: File | null };
const BLANK: Values = { shedName: "", plot: "", size: "", height: 200, power: false, uses: [], startsOn: "", note: "", drawing: null };
const STEPS: (keyof Values)[][] = [
  ["shedName", "plot"],
  ["size", "height", "power", "uses"],
  ["startsOn", "note", "drawing"],
];

function wrongWith(v: Values, step: number): Said {
  const out: Said = {};
  const name = v.shedName.trim();
  if (step === 0) {
    if (name === "") out.shedName = "Give your shed a name.";
    else if ([...name].length < 3 || [...name].length > 30) out.shedName = "Use 3 to 30 characters.";
    if (v.plot === "") out.plot = "Choose a plot from the list.";
  }
  if (step === 1) {
    if (v.size === "") out.size = "Choose a size.";
    if (v.uses.length === 0) out.uses = "Say what the shed is for.";
  }
  if (step === 2) {
    if (v.startsOn === "") out.startsOn = "Choose the first day of work.";
    if ([...v.note.trim()].length > 200) out.note = "Use at most 200 characters.";
  }
  return out;
}

/** Build is the application for a shed: three steps and a summary. */
export function Build({ plots }: { plots: Choice[] }) {
  const [v, setV] = useState(BLANK);
  const [step, setStep] = useState(0);
  const [said, setSaid] = useState<Said>({});
  const [taken, setTaken] = useState(false);
  const [alert, setAlert] = useState("");
  const [busy, setBusy] = useState(false);
  const [done, setDone] = useState("");
  const name = useLater(v.shedName.trim(), 250);
  useEffect(() => {
    setTaken(false);
    if (name.length < 3) return;
    let current = true;
    ask<{ free: boolean }>("GET", `/api/sheds/free?name=${encodeURIComponent(name)}`).then(
      (a) => current && setTaken(!a.free),
      () => {},
    );
    return () => {
      current = false;
    };
  }, [name]);
  const set = (change: Partial<Values>) => {
    setV({ ...v, ...change });
    setSaid(Object.fromEntries(Object.entries(said).filter(([field]) => !(field in change))));
  };
  const next = () => {
    const wrong = wrongWith(v, step);
    setSaid(wrong);
    setAlert("");
    if (Object.keys(wrong).length > 0 || (step === 0 && taken)) return;
    if (step === 1 && on("build-step-lost")) setV({ ...v, shedName: v.shedName.slice(0, 3) });
    setStep(step + 1);
  };
  const back = () => {
    if (step === 3 && on("build-back-lost")) setV({ ...v, note: "" });
    if (step === 1 && on("build-back-blank")) setV({ ...v, plot: "" });
    setStep(step - 1);
  };
  const send = async () => {
    setBusy(true);
    setAlert("");
    const form = new FormData();
    for (const field of ["shedName", "plot", "size", "startsOn", "note"] as const) form.append(field, v[field]);
    form.append("height", String(v.height));
    if (v.power) form.append("power", "on");
    for (const u of v.uses) form.append("uses", u);
    if (v.drawing) form.append("drawing", v.drawing);
    try {
      const kept = await ask<{ shedName: string }>("POST", "/api/sheds", form);
      setDone(kept.shedName);
    } catch (e) {
      setBusy(false);
      if (on("build-summary-silent")) return;
      if (!(e instanceof Problem) || e.errors.length === 0) {
        setAlert(e instanceof Problem && e.status === 401 ? "Please sign in." : "The association cannot be reached. Please try again.");
        return;
      }
      setSaid(Object.fromEntries(e.errors.map((w) => [w.name, w.detail])));
      setStep(STEPS.findIndex((fields) => fields.some((f) => e.errors.some((w) => w.name === f))));
    }
  };
  if (done !== "") return <p role="status">Your application for {done} has arrived.</p>;
  const error = (field: keyof Values) => said[field];
  return (
    <>
      <h1>Apply for a shed</h1>
      <p className="hint">Step {step + 1} of 4</p>
      <form
        noValidate
        onSubmit={(e) => {
          e.preventDefault();
          if (step < 3) next();
          else void send();
        }}
      >
        {step === 0 && (
          <>
            <Text
              label="Name of the shed"
              value={v.shedName}
              onChange={(shedName) => set({ shedName })}
              error={error("shedName") ?? (taken ? "There is a shed of this name." : undefined)}
            />
            <Finder label="On which plot" choices={plots} value={v.plot} onChange={(plot) => set({ plot })} error={error("plot")} />
          </>
        )}
        {step === 1 && (
          <>
            <Cards label="Size" choices={SIZES} value={v.size} onChange={(size) => set({ size })} error={error("size")} />
            <Height label="Height" min={180} max={250} step={5} unit="cm" value={v.height} onChange={(height) => set({ height })} />
            <Toggle label="With power" value={v.power} onChange={(power) => set({ power })} />
            <Chips label="What it is for" choices={USES} value={v.uses} onChange={(uses) => set({ uses })} error={error("uses")} />
          </>
        )}
        {step === 2 && (
          <>
            <Calendar label="First day of work" value={v.startsOn} onChange={(startsOn) => set({ startsOn })} error={error("startsOn")} />
            <Text label="Note" lines={3} value={v.note} onChange={(note) => set({ note })} error={error("note")} />
            <Drop label="Drawing" file={v.drawing} onChange={(drawing) => set({ drawing })} accept="image/png,application/pdf" error={error("drawing")} />
          </>
        )}
        {step === 3 && (
          <dl className="summary">
            <dt>Shed</dt>
            <dd>
              {v.shedName}, {SIZES.find((s) => s.code === v.size)?.name.toLowerCase()}, {v.height} cm{v.power ? ", with power" : ""}
            </dd>
            <dt>Plot</dt>
            <dd>{plots.find((p) => p.code === v.plot)?.name}</dd>
            <dt>Start</dt>
            <dd>{v.startsOn}</dd>
          </dl>
        )}
        {alert && (
          <p role="alert" className="message">
            {alert}
          </p>
        )}
        <div className="row">
          {step > 0 && (
            <button type="button" onClick={back}>
              Back
            </button>
          )}
          <button type="submit" className="main" disabled={busy}>
            {step < 3 ? "Continue" : "Send application"}
          </button>
        </div>
      </form>
    </>
  );
}
