import type { Schemas } from "../api/client";

export type Scale = Schemas["ScaleScale"];

export type PlacedTick = {
  scale: number;
  index: number;
  x: number;
  label: string;
  cases: string[];
  accepted: boolean;
  /** The level its label stands on, 0 nearest to the line; -1 when it gives way. */
  level: number;
  /** Where its label begins. */
  labelX: number;
};

export type Band = { from: number; to: number };
export type PlacedScale = { name: string; from: number; to: number; bands: Band[]; breaks: number[] };
export type Layout = { ticks: PlacedTick[]; scales: PlacedScale[] };

const glyph = 7.4; // width of a mono character in a label
const least = 14; // between two ticks when there are many
const usual = 27; // between two ticks when there is room
const side = 18; // before the first and after the last tick of a scale
const between = 22; // between two scales

/**
 * Lays the scales of a row out side by side within a width. Ticks keep their order and a distance that shows each; where there is
 * room, labels decide. A break is drawn where values were left out.
 */
export function layout(all: Scale[], width: number, odd: (id: string) => boolean): Layout {
  const scales = merged(all, width, odd);
  const steps = scales.map((s) => s.ticks.map((t, i, all) => wanted(t.label, all[i + 1]?.label)));
  const gaps = steps.flatMap((s) => s.slice(0, -1));
  const fixed = scales.length * 2 * side + Math.max(0, scales.length - 1) * between;
  const room = width - fixed;
  const sum = gaps.reduce((a, b) => a + b, 0);
  const even = gaps.length ? room / gaps.length : 0;
  const spread = (wish: number) => {
    if (sum <= room) return Math.min(wish + (room - sum) / Math.max(1, gaps.length), wish * 1.9);
    if (even >= usual)
      return usual + ((wish - usual) * (room - gaps.length * usual)) / Math.max(1, sum - gaps.length * usual);
    return Math.max(least, even);
  };
  const ticks: PlacedTick[] = [];
  const placed: PlacedScale[] = [];
  let x = 0;
  scales.forEach((s, scale) => {
    const from = x;
    x += side;
    const list = s.ticks;
    const own: PlacedTick[] = list.map((t, index) => {
      if (index > 0) x += spread(steps[scale]?.[index - 1] ?? usual);
      return { scale, index, x, label: t.label, cases: t.cases, accepted: t.accepted, level: -1, labelX: x };
    });
    x += side;
    placed.push({ name: s.name, from, to: x, bands: bands(s, own), breaks: breaks(s, own) });
    ticks.push(...own);
    x += between;
  });
  labels(ticks, odd, width);
  return { ticks, scales: placed };
}

type Tick = NonNullable<Scale["ticks"]>[number];

/**
 * Scales that have more ticks than can be drawn within the width, with neighbours that are expected alike joined into one, under their
 * number. Odd ticks stand alone.
 */
export function merged(scales: Scale[], width: number, odd: (id: string) => boolean): Scale[] {
  const total = scales.reduce((n, s) => n + s.ticks.length, 0);
  const room = Math.floor((width - scales.length * (2 * side + between)) / least);
  if (total <= room) return scales;
  const alone = (t: Tick) => t.cases.some(odd);
  const plain = scales.reduce((n, s) => n + s.ticks.filter((t) => !alone(t)).length, 0);
  const together = Math.ceil(plain / Math.max(1, room - (total - plain) - scales.length * 2));
  return scales.map((s) => {
    const ticks: Tick[] = [];
    let count = 0;
    for (const t of s.ticks) {
      const last = ticks.at(-1);
      if (last && count > 0 && count < together && last.accepted === t.accepted && !alone(t)) {
        count++;
        ticks[ticks.length - 1] = {
          ...last,
          label: `${count}×`,
          cases: [...last.cases, ...t.cases],
          next: t.next,
          closes: t.closes,
        };
        continue;
      }
      ticks.push(t);
      count = alone(t) ? 0 : 1;
    }
    return { ...s, ticks };
  });
}

function wanted(label: string, next: string | undefined): number {
  return Math.max(usual, ((label.length + (next?.length ?? 0)) * glyph) / 2 + 8);
}

/** Accepted stretches, a little wider than their outermost ticks. */
function bands(s: Scale, own: PlacedTick[]): Band[] {
  const out: Band[] = [];
  s.ticks.forEach((t, i) => {
    const x = own[i]?.x ?? 0;
    if (t.opens) out.push({ from: x - 5, to: x + 5 });
    const last = out.at(-1);
    if (t.accepted && last) last.to = x + 5;
  });
  return out;
}

/** Places between two ticks of a measured scale that are not next to each other. */
function breaks(s: Scale, own: PlacedTick[]): number[] {
  if (!s.measured) return [];
  return s.ticks.flatMap((t, i) => {
    const a = own[i];
    const b = own[i + 1];
    return a && b && !t.next ? [(a.x + b.x) / 2] : [];
  });
}

/** Labels stand on two levels and never overlap: odd ticks choose first, then the ends of bands, then the others. */
function labels(ticks: PlacedTick[], odd: (id: string) => boolean, width: number) {
  const taken: Band[][] = [[], []];
  const rank = (t: PlacedTick) => (t.cases.some(odd) ? 0 : 1);
  const order = [...ticks].sort((a, b) => rank(a) - rank(b) || a.x - b.x);
  for (const t of order) {
    const half = (t.label.length * glyph) / 2 + 3;
    // at the ends a label moves inwards
    const from = Math.min(Math.max(0, t.x - half), width - 2 * half);
    const to = from + 2 * half;
    const level = taken.findIndex((row) => row.every((b) => to <= b.from || from >= b.to));
    if (level < 0) continue;
    t.level = level;
    t.labelX = from + 3;
    taken[level]?.push({ from, to });
  }
}
