import { Popover, RadioGroup, Select, Slider, Switch, ToggleGroup } from "radix-ui";
import { useEffect, useId, useMemo, useRef, useState } from "react";

/** Said is what is said at each field, by its name. */
export type Said = Record<string, string>;

type Own = { label: string; error?: string; untied?: boolean; faint?: boolean };

/** ids are those of a field's label and message, and what its control refers to them with. */
function useIds(error: string | undefined, untied?: boolean) {
  const id = useId();
  return {
    label: `${id}-label`,
    message: `${id}-message`,
    control: `${id}-control`,
    refers: { "aria-invalid": error ? true : undefined, "aria-describedby": error && !untied ? `${id}-message` : undefined },
  };
}

function Message({ id, text, faint }: { id: string; text?: string; faint?: boolean }) {
  if (!text) return null;
  return (
    <p id={id} className={faint ? "message faint" : "message"}>
      {text}
    </p>
  );
}

export function Text({
  label,
  error,
  value,
  onChange,
  onBlur,
  type = "text",
  lines,
  hint,
  untied,
  faint,
  autoComplete = "off",
}: Own & {
  value: string;
  onChange: (value: string) => void;
  onBlur?: () => void;
  type?: string;
  lines?: number;
  hint?: string;
  autoComplete?: string;
}) {
  const ids = useIds(error, untied);
  const shared = { id: ids.control, value, onBlur, autoComplete, ...ids.refers };
  return (
    <div className="field">
      <label htmlFor={ids.control}>{label}</label>
      {lines ? <textarea {...shared} rows={lines} onChange={(e) => onChange(e.target.value)} /> : <input {...shared} type={type} onChange={(e) => onChange(e.target.value)} />}
      {hint && <p className="hint">{hint}</p>}
      <Message id={ids.message} text={error} faint={faint} />
    </div>
  );
}

export type Choice = { code: string; name: string };

/** Chooser is a list behind a button. */
export function Chooser({ label, error, choices, value, onChange }: Own & { choices: Choice[]; value: string; onChange: (v: string) => void }) {
  const ids = useIds(error);
  return (
    <div className="field">
      <span id={ids.label}>{label}</span>
      <Select.Root value={value} onValueChange={onChange}>
        <Select.Trigger className="opener" aria-labelledby={ids.label} {...ids.refers}>
          <Select.Value placeholder="Choose …" />
        </Select.Trigger>
        <Select.Portal>
          <Select.Content className="list" position="popper">
            <Select.Viewport>
              {choices.map((c) => (
                <Select.Item key={c.code} value={c.code} className="choice">
                  <Select.ItemText>{c.name}</Select.ItemText>
                </Select.Item>
              ))}
            </Select.Viewport>
          </Select.Content>
        </Select.Portal>
      </Select.Root>
      <Message id={ids.message} text={error} />
    </div>
  );
}

/** Finder is a combobox that one types into to find a choice. */
export function Finder({ label, error, choices, value, onChange }: Own & { choices: Choice[]; value: string; onChange: (v: string) => void }) {
  const ids = useIds(error);
  const [text, setText] = useState(choices.find((c) => c.code === value)?.name ?? "");
  const [open, setOpen] = useState(false);
  const [at, setAt] = useState(-1);
  const found = choices.filter((c) => c.name.toLowerCase().includes(text.trim().toLowerCase()));
  const take = (c: Choice) => {
    onChange(c.code);
    setText(c.name);
    setOpen(false);
  };
  return (
    <div className="field">
      <label htmlFor={ids.control}>{label}</label>
      <input
        id={ids.control}
        role="combobox"
        aria-expanded={open}
        aria-controls={`${ids.control}-list`}
        aria-activedescendant={open && at >= 0 ? `${ids.control}-${at}` : undefined}
        autoComplete="off"
        value={text}
        {...ids.refers}
        onChange={(e) => {
          setText(e.target.value);
          onChange(choices.find((c) => c.name === e.target.value)?.code ?? "");
          setOpen(true);
          setAt(-1);
        }}
        onFocus={() => setOpen(true)}
        onBlur={() => setOpen(false)}
        onKeyDown={(e) => {
          if (e.key === "ArrowDown") setAt(Math.min(at + 1, found.length - 1));
          if (e.key === "ArrowUp") setAt(Math.max(at - 1, 0));
          if (e.key === "Enter" && open && found[at]) take(found[at]);
          if (e.key === "Escape") setOpen(false);
        }}
      />
      {open && found.length > 0 && (
        <div role="listbox" id={`${ids.control}-list`} className="list" aria-label={label}>
          {found.map((c, i) => (
            <div
              key={c.code}
              id={`${ids.control}-${i}`}
              role="option"
              tabIndex={-1}
              aria-selected={i === at}
              className="choice"
              onMouseDown={(e) => {
                e.preventDefault();
                take(c);
              }}
            >
              {c.name}
            </div>
          ))}
        </div>
      )}
      <Message id={ids.message} text={error} />
    </div>
  );
}

/** Cards are radio buttons that look like cards. */
export function Cards({ label, error, choices, value, onChange }: Own & { choices: (Choice & { more?: string })[]; value: string; onChange: (v: string) => void }) {
  const ids = useIds(error);
  return (
    <div className="field">
      <span id={ids.label}>{label}</span>
      <RadioGroup.Root className="cards" aria-labelledby={ids.label} aria-describedby={ids.refers["aria-describedby"]} value={value} onValueChange={onChange}>
        {choices.map((c) => (
          <RadioGroup.Item key={c.code} value={c.code} className="card" aria-label={c.name}>
            <b>{c.name}</b>
            {c.more && <small>{c.more}</small>}
          </RadioGroup.Item>
        ))}
      </RadioGroup.Root>
      <Message id={ids.message} text={error} />
    </div>
  );
}

/** Chips are several choices, each a button that stays pressed. */
export function Chips({ label, error, choices, value, onChange }: Own & { choices: Choice[]; value: string[]; onChange: (v: string[]) => void }) {
  const ids = useIds(error);
  return (
    <div className="field">
      <span id={ids.label}>{label}</span>
      <ToggleGroup.Root type="multiple" className="chips" aria-labelledby={ids.label} aria-describedby={ids.refers["aria-describedby"]} value={value} onValueChange={onChange}>
        {choices.map((c) => (
          <ToggleGroup.Item key={c.code} value={c.code} className="chip">
            {c.name}
          </ToggleGroup.Item>
        ))}
      </ToggleGroup.Root>
      <Message id={ids.message} text={error} />
    </div>
  );
}

export function Toggle({ label, value, onChange }: { label: string; value: boolean; onChange: (v: boolean) => void }) {
  const id = useId();
  return (
    <div className="field row">
      <Switch.Root id={id} className="switch" checked={value} onCheckedChange={onChange}>
        <Switch.Thumb className="thumb" />
      </Switch.Root>
      <label htmlFor={id}>{label}</label>
    </div>
  );
}

export function Height({
  label,
  value,
  onChange,
  min,
  max,
  step,
  unit,
}: {
  label: string;
  value: number;
  onChange: (v: number) => void;
  min: number;
  max: number;
  step: number;
  unit: string;
}) {
  return (
    <div className="field">
      <span>
        {label}: {value} {unit}
      </span>
      <Slider.Root className="slider" value={[value]} onValueChange={([v]) => onChange(v ?? value)} min={min} max={max} step={step}>
        <Slider.Track className="track">
          <Slider.Range className="range" />
        </Slider.Track>
        <Slider.Thumb className="knob" aria-label={label} aria-valuetext={`${value} ${unit}`} />
      </Slider.Root>
    </div>
  );
}

const MONTHS = ["January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December"];
const written = (y: number, m: number, d: number) => `${y}-${String(m + 1).padStart(2, "0")}-${String(d).padStart(2, "0")}`;
const spoken = (day: string) => {
  const [y, m, d] = day.split("-").map(Number);
  return day === "" ? "" : `${d} ${MONTHS[(m ?? 1) - 1]} ${y}`;
};

/** Calendar is a month of buttons behind a button; any day can be chosen. */
export function Calendar({ label, error, value, onChange }: Own & { value: string; onChange: (v: string) => void }) {
  const ids = useIds(error);
  const [open, setOpen] = useState(false);
  const now = new Date();
  const [shown, setShown] = useState([now.getFullYear(), now.getMonth()] as [number, number]);
  const [year, month] = shown;
  const move = (by: number) => setShown([year + Math.floor((month + by) / 12), (month + by + 12) % 12]);
  const days = useMemo(() => Array.from({ length: new Date(year, month + 1, 0).getDate() }, (_, i) => i + 1), [year, month]);
  const lead = (new Date(year, month, 1).getDay() + 6) % 7;
  return (
    <div className="field">
      <span id={ids.label}>{label}</span>
      <Popover.Root open={open} onOpenChange={setOpen}>
        <Popover.Trigger className="opener" aria-labelledby={ids.label} {...ids.refers}>
          {spoken(value) || "Choose a day …"}
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content className="calendar" aria-label={label}>
            <div className="months">
              <button type="button" aria-label="Previous month" onClick={() => move(-1)}>
                ‹
              </button>
              <h2 aria-live="polite">
                {MONTHS[month]} {year}
              </h2>
              <button type="button" aria-label="Next month" onClick={() => move(1)}>
                ›
              </button>
            </div>
            <div className="days">
              {days.map((d) => (
                <button
                  key={d}
                  type="button"
                  aria-label={`${d} ${MONTHS[month]} ${year}`}
                  aria-pressed={value === written(year, month, d)}
                  style={d === 1 ? { gridColumnStart: lead + 1 } : undefined}
                  onClick={() => {
                    onChange(written(year, month, d));
                    setOpen(false);
                  }}
                >
                  {d}
                </button>
              ))}
            </div>
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
      <Message id={ids.message} text={error} />
    </div>
  );
}

/** Drop takes a file that is dropped on it, or chosen. */
export function Drop({ label, error, file, onChange, accept }: Own & { file: File | null; onChange: (f: File | null) => void; accept: string }) {
  const ids = useIds(error);
  const [over, setOver] = useState(false);
  return (
    <div className="field">
      <label htmlFor={ids.control}>{label}</label>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: dropping is a way beside the control */}
      <div
        className={over ? "drop over" : "drop"}
        onDragOver={(e) => {
          e.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(e) => {
          e.preventDefault();
          setOver(false);
          onChange(e.dataTransfer.files[0] ?? null);
        }}
      >
        <input id={ids.control} type="file" className="concealed" accept={accept} {...ids.refers} onChange={(e) => onChange(e.target.files?.[0] ?? null)} />
        <span>{file ? file.name : "Drop a file here, or choose one"}</span>
      </div>
      <Message id={ids.message} text={error} />
    </div>
  );
}

/** useLater is a value once it has not changed for a while. */
export function useLater<T>(value: T, after: number): T {
  const [later, setLater] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setLater(value), after);
    return () => clearTimeout(timer);
  }, [value, after]);
  return later;
}

/** useNotice is a text that vanishes after a while. */
export function useNotice(lasts: number): [string, (text: string) => void] {
  const [text, setText] = useState("");
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  return [
    text,
    (next) => {
      clearTimeout(timer.current);
      setText(next);
      if (next !== "") timer.current = setTimeout(() => setText(""), lasts);
    },
  ];
}
