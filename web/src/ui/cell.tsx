import { type KeyboardEvent, useEffect, useRef, useState } from "react";

/** A text that is edited where it stands: Enter or leaving it keeps it, Esc gives it up. */
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
  useEffect(() => setText(value), [value]);
  const keys = (e: KeyboardEvent<HTMLInputElement>) => {
    if (e.key === "Enter") e.currentTarget.blur();
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
  return (
    <input
      aria-label={label}
      title={text}
      className={`cell ${mono ? "value" : ""} ${wide ? "w-full" : ""}`}
      value={text}
      size={wide ? undefined : Math.max(size ?? 3, (text || placeholder).length + 1)}
      placeholder={placeholder}
      onChange={(e) => {
        setText(e.target.value);
        onType?.(e.target.value);
      }}
      onKeyDown={keys}
      onBlur={leave}
    />
  );
}

/** A choice that is edited where it stands. */
export function Choice({
  value,
  label,
  options,
  width = "",
  onKeep,
}: {
  value: string;
  label: string;
  options: readonly (string | readonly [string, string])[];
  /** A class for its width, where it is not that of its longest option. */
  width?: string;
  onKeep: (value: string) => void;
}) {
  return (
    <select aria-label={label} className={`cell ${width}`} value={value} onChange={(e) => onKeep(e.target.value)}>
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
