/** An id made of a name, as documents have them: small letters, digits and underscores. */
export function idOf(name: string): string {
  return name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "_")
    .replace(/^[_0-9]+|_+$/g, "");
}

/** An option's label and value, written as label = value. */
export function optionOf(text: string): { label: string; value: string } {
  const at = text.lastIndexOf(" = ");
  if (at >= 0) return { label: text.slice(0, at), value: text.slice(at + 3) };
  const value = text.replace(/^= /, "");
  return { label: value, value };
}

type Step = string | Record<string, string>;

/** The server's normalizing steps as they are edited: trim, strip: -, date: DD.MM.YYYY. */
export function stepsText(steps: unknown[]): string {
  return (steps as Step[])
    .map((s) => (typeof s === "string" ? s : Object.entries(s).map(([kind, detail]) => `${kind}: ${detail}`)[0]))
    .join(", ");
}

/** Reads steps back; a comma that digits follow belongs to a number's format. */
export function stepsOf(text: string): Step[] {
  return text
    .split(/,(?!\d)/)
    .map((s) => s.trimStart())
    .filter((s) => s.trim() !== "")
    .map((s) => {
      const at = s.indexOf(":");
      return at < 0 ? s.trim() : { [s.slice(0, at).trim()]: s.slice(at + 1).trim() || s.slice(at + 1) };
    });
}
