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
