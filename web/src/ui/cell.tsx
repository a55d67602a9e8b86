import { createContext, type KeyboardEvent, useContext, useEffect, useRef, useState } from "react";

/** How often what was typed was given up for what somebody else saved: cells then show what is saved. */
export const Discards = createContext(0);

/** A text that is edited where it stands: Enter or leaving it keeps it, Esc gives it up. A wide one fills its column and breaks into lines. */
export function Cell({
  value,
  label,
  onKeep,
  onType,
  placeholder = "",
  wide = false,
  mono = false,
  size,
}: {
  value: string;
  label: string;
  onKeep: (value: string) => void;
  onType?: (value: string | null) => void;
  placeholder?: string;
  wide?: boolean;
  mono?: boolean;
  size?: number;
}) {
  const [text, setText] = useState(value);
  const dropped = useRef(false);
  const discards = useContext(Discards);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what was typed goes when it is given up
  useEffect(() => setText(value), [value, discards]);
  const keys = (e: KeyboardEvent<HTMLInputElement | HTMLTextAreaElement>) => {
    if (e.key === "Enter") {
      e.preventDefault(); // no line break
      e.currentTarget.blur();
    }
    if (e.key === "Escape") {
      dropped.current = true;
      setText(value);
      onType?.(null);
      e.currentTarget.blur();
    }
  };
  const leave = () => {
    onType?.(null);
    if (!dropped.current && text !== value) onKeep(text);
    dropped.current = false;
  };
  const type = (typed: string) => {
    setText(typed);
    onType?.(typed);
  };
  const shared = {
    "aria-label": label,
    title: text,
    value: text,
    placeholder,
    onKeyDown: keys,
    onBlur: leave,
  };
  if (wide) {
    return (
      <textarea
        {...shared}
        rows={1}
        className={`cell block field-sizing-content w-full resize-none ${mono ? "value" : ""}`}
        onChange={(e) => type(e.target.value.replace(/\s*\n\s*/g, " "))}
      />
    );
  }
  return (
    <input
      {...shared}
      className={`cell ${mono ? "value" : ""}`}
      size={Math.max(size ?? 3, (text || placeholder).length + 1)}
      onChange={(e) => type(e.target.value)}
    />
  );
}

/** Keys that move a closed list's choice. */
const moves = ["ArrowUp", "ArrowDown", "ArrowLeft", "ArrowRight", "Home", "End", "PageUp", "PageDown"];

/**
 * A choice that is edited where it stands. What is picked with the mouse is kept at once. Keys only move the choice: Enter or leaving it
 * keeps it, Esc gives it up.
 */
export function Choice({
  value,
  label,
  options,
  width = "",
  first,
  onKeep,
}: {
  value: string;
  label: string;
  options: readonly (string | readonly [string, string])[];
  /** A class for its width, where it is not that of its longest option. */
  width?: string;
  /** What stands there while nothing is chosen, where the control does something rather than holding a value. */
  first?: string;
  onKeep: (value: string) => void;
}) {
  const [at, setAt] = useState(value);
  const byKey = useRef(false);
  const discards = useContext(Discards);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what was chosen goes when it is given up
  useEffect(() => setAt(value), [value, discards]);
  const keep = (v: string) => {
    byKey.current = false;
    if (v !== value) onKeep(v);
    if (first !== undefined) setAt(value);
  };
  const keys = (e: KeyboardEvent<HTMLSelectElement>) => {
    byKey.current = moves.includes(e.key) || (e.key.length === 1 && e.key !== " ");
    if (e.key === "Enter" && at !== value) {
      e.preventDefault();
      keep(at);
    }
    if (e.key === "Escape") setAt(value);
  };
  return (
    <select
      aria-label={label}
      className={`cell ${width}`}
      value={at}
      onKeyDown={keys}
      onPointerDown={() => {
        byKey.current = false;
      }}
      onChange={(e) => {
        setAt(e.target.value);
        if (!byKey.current) keep(e.target.value);
      }}
      onBlur={() => {
        if (first !== undefined) setAt(value);
        else keep(at);
      }}
    >
      {first !== undefined && <option value="">{first}</option>}
      {options.map((o) => {
        const [v, text] = typeof o === "string" ? [o, o] : o;
        return (
          <option key={v} value={v}>
            {text}
          </option>
        );
      })}
    </select>
  );
}
