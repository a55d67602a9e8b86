import { describe, expect, it } from "vitest";
import { pieces } from "./value";

const drawn = (value: string) =>
  pieces(value)
    .map((p) => (p.unseen ? `<${p.text}>` : p.text))
    .join("");

describe("pieces", () => {
  it("draws what cannot be seen", () => {
    expect(drawn("a\tb\n")).toBe("a<⇥>b<⏎>");
    expect(drawn("a\u0000\u0007b")).toBe("a<␀[07]>b");
    expect(drawn("a\u200bb\ufeff")).toBe("a<[zero-width]>b<[byte order mark]>");
    expect(drawn("a\u00a0b")).toBe("a<⍽>b");
  });
  it("draws spaces only at the ends", () => {
    expect(drawn("  a b ")).toBe("<··>a b<·>");
    expect(drawn("   ")).toBe("<···>");
  });
  it("leaves everything else alone", () => {
    expect(drawn("Zoë 🌱 <b>&amp;")).toBe("Zoë 🌱 <b>&amp;");
    expect(drawn("")).toBe("");
  });
  it("loses no character", () => {
    const value = " \tmoss\u200b 🌱 row\r\n ";
    expect(pieces(value).length).toBeGreaterThan(3);
    expect(
      pieces(value)
        .filter((p) => !p.unseen)
        .map((p) => p.text)
        .join(""),
    ).toBe("moss 🌱 row");
  });
});
