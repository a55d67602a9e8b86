import { useId } from "react";
import { say } from "../words";

type PasswordProps = {
  label: string;
  value: string;
  onChange: (value: string) => void;
  autoComplete: "current-password" | "new-password";
  describedBy?: string;
};

/** A password with its label. */
export function Password({ label, value, onChange, autoComplete, describedBy }: PasswordProps) {
  const id = useId();
  return (
    <>
      <label className="mt-3 block font-semibold" htmlFor={id}>
        {label}
      </label>
      <input
        id={id}
        type="password"
        className="mt-1 w-full border border-rule bg-panel px-2 py-1.5"
        value={value}
        autoComplete={autoComplete}
        aria-describedby={describedBy}
        onChange={(e) => onChange(e.target.value)}
        required
      />
    </>
  );
}

/** What a new password needs; shown beside it before it is entered. */
export function PasswordNeeds({ id }: { id: string }) {
  return (
    <p id={id} className="mt-2 text-[12.5px] text-soft">
      {say.ui.atLeast12CharactersAnd}
    </p>
  );
}

/** Says what is wrong with a form, beside the button. */
export function Refused({ id, text }: { id: string; text: string }) {
  return (
    <p id={id} role="alert" className="mt-3 border-l-4 border-unseen pl-3">
      {text}
    </p>
  );
}
