import { describe, expect, it } from "vitest";
import { layout, merged, type Scale } from "./layout";

const none = () => false;

function scale(labels: string[], more: Partial<Scale> = {}): Scale {
  return {
    name: "length, characters",
    measured: true,
    ticks: labels.map((label, i) => ({
      label,
      cases: [`case ${label}`],
      accepted: i > 1 && i < labels.length - 2,
      next: true,
      opens: i === 2,
      closes: i === labels.length - 3,
    })),
    ...more,
  };
}

/** Deterministic labels of many lengths. */
function random(seed: number, n: number): string[] {
  let s = seed;
  return Array.from({ length: n }, () => {
    s = (s * 1103515245 + 12345) % 2147483648;
    return "x".repeat(1 + (s % 14));
  });
}

describe("layout", () => {
  it("keeps order and a distance between ticks, whatever the labels and the width", () => {
    for (let seed = 1; seed < 60; seed++) {
      for (const width of [420, 600, 1400]) {
        const list = [scale(random(seed, 3 + (seed % 12))), scale(random(seed + 7, 1 + (seed % 6)))];
        const { ticks } = layout(list, width, none);
        for (let i = 1; i < ticks.length; i++) {
          const gap = (ticks[i]?.x ?? 0) - (ticks[i - 1]?.x ?? 0);
          expect(gap).toBeGreaterThanOrEqual(13.9);
        }
      }
    }
  });

  it("never lets two labels overlap, nor one leave the row", () => {
    for (let seed = 1; seed < 60; seed++) {
      const width = 500 + seed * 7;
      const { ticks } = layout(
        [scale(random(seed, 14)), scale(random(seed + 3, 7))],
        width,
        (id) => id.length % 5 === 0,
      );
      for (const level of [0, 1]) {
        const shown = ticks.filter((t) => t.level === level).sort((a, b) => a.labelX - b.labelX);
        for (let i = 0; i < shown.length; i++) {
          const t = shown[i];
          if (!t) continue;
          expect(t.labelX).toBeGreaterThanOrEqual(0);
          const end = t.labelX + t.label.length * 7.4;
          expect(end).toBeLessThanOrEqual(width + 1);
          const next = shown[i + 1];
          if (next) expect(end).toBeLessThanOrEqual(next.labelX);
        }
      }
    }
  });

  it("shows the label of every odd tick before any other", () => {
    const labels = random(5, 24);
    const { ticks } = layout([scale(labels)], 420, (id) => id === `case ${labels[11]}`);
    for (const t of ticks) if (t.cases[0] === `case ${labels[11]}`) expect(t.level).toBeGreaterThanOrEqual(0);
    expect(ticks.some((t) => t.level < 0)).toBe(true);
  });

  it("draws a band from the tick that opens it to the one that closes it", () => {
    const { scales, ticks } = layout([scale(["2", "3", "4", "5", "6", "7"])], 600, none);
    const xs = ticks.map((t) => t.x);
    expect(scales[0]?.bands).toEqual([{ from: (xs[2] ?? 0) - 5, to: (xs[3] ?? 0) + 5 }]);
  });

  it("leaves a hole where a value inside the range is rejected", () => {
    const list = ["1", "1.5", "2"].map((label, i) => ({
      label,
      cases: [label],
      accepted: i !== 1,
      opens: i !== 1,
      closes: i !== 1,
      next: true,
    }));
    expect(layout([{ name: "value", measured: true, ticks: list }], 300, none).scales[0]?.bands).toHaveLength(2);
  });

  it("breaks the line only where values were left out of a measured scale", () => {
    const s = scale(["3", "20", "5000"]);
    s.ticks.forEach((t, i) => {
      t.next = i !== 1;
    });
    const { scales, ticks } = layout([s], 400, none);
    expect(scales[0]?.breaks).toEqual([((ticks[1]?.x ?? 0) + (ticks[2]?.x ?? 0)) / 2]);
    expect(layout([{ ...s, measured: false }], 400, none).scales[0]?.breaks).toEqual([]);
  });

  it("puts scales beside each other without touching", () => {
    const { scales } = layout([scale(["1", "2", "3"]), scale(["a", "b", "c"])], 600, none);
    expect(scales[1]?.from ?? 0).toBeGreaterThan(scales[0]?.to ?? 0);
  });

  it("has nothing to draw for a row without scales", () => {
    expect(layout([], 600, none)).toEqual({ ticks: [], scales: [] });
  });
});

describe("merged", () => {
  const many = (n: number): Scale => ({
    name: "length",
    measured: true,
    ticks: Array.from({ length: n }, (_, i) => ({
      label: String(i),
      cases: [`c${i}`],
      accepted: i >= 20,
      opens: i === 20,
      closes: i === n - 1,
    })),
  });
  it("leaves what fits as it is", () => {
    const scales = [many(10)];
    expect(merged(scales, 600, () => false)).toBe(scales);
  });
  it("joins neighbours that are alike, keeps all cases, and odd ones alone", () => {
    const odd = (id: string) => id === "c7" || id === "c300";
    const ticks = merged([many(500)], 600, odd)[0]?.ticks ?? [];
    expect(ticks.length).toBeLessThanOrEqual(40);
    expect(ticks.flatMap((t) => t.cases)).toHaveLength(500);
    for (const t of ticks) {
      expect(new Set(t.cases.map((c) => Number(c.slice(1)) >= 20)).size).toBe(1);
      if (t.cases.some(odd)) expect(t.cases).toHaveLength(1);
    }
    const placed = layout([many(500)], 600, odd);
    expect(Math.max(...placed.ticks.map((t) => t.x))).toBeLessThanOrEqual(600);
  });
});
