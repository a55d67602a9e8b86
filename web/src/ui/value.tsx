import { say } from "../words";

const names: Record<number, string> = {
  9: "⇥",
  10: "⏎",
  13: "␍",
  0: "␀",
  160: "⍽",
  8203: "[zero-width]",
  8204: "[zero-width]",
  8205: "[joiner]",
  65279: say.ui.byteOrderMark,
};

export type Piece = { text: string; unseen: boolean };

/** Cuts a value into what can be seen and what stands for characters that cannot: spaces at the ends, controls, zero-width. */
export function pieces(value: string): Piece[] {
  const out: Piece[] = [];
  const chars = [...value];
  const first = chars.findIndex((c) => c !== " ");
  let last = chars.length - 1;
  while (last >= 0 && chars[last] === " ") last--;
  chars.forEach((c, i) => {
    const code = c.codePointAt(0) ?? 0;
    let text = names[code];
    if (!text && code < 32) text = `[${code.toString(16).padStart(2, "0")}]`;
    if (!text && c === " " && (first < 0 || i < first || i > last)) text = "·";
    const unseen = text !== undefined;
    const before = out.at(-1);
    if (before && before.unseen === unseen) before.text += text ?? c;
    else out.push({ text: text ?? c, unseen });
  });
  return out;
}

const longest = 400;

/** A value in the mono face, invisible characters drawn, long ones cut with their length. */
export function Value({ children, whole = false }: { children: string; whole?: boolean }) {
  const chars = [...children];
  const cut = !whole && chars.length > longest;
  const shown = cut ? chars.slice(0, 120).join("") : children;
  return (
    <span className="value">
      {pieces(shown).map((p, i) =>
        p.unseen ? (
          // biome-ignore lint/suspicious/noArrayIndexKey: pieces have no identity of their own
          <span key={i} className="unseen-char">
            {p.text}
          </span>
        ) : (
          p.text
        ),
      )}
      {cut && (
        <span className="text-soft">
          … {chars.length} {say.ui.characters}
        </span>
      )}
    </span>
  );
}

/** Two values above each other, what differs marked. */
export function Compared({ sent, stored }: { sent: string; stored: string }) {
  const a = [...sent];
  const b = [...stored];
  let same = 0;
  while (same < a.length && same < b.length && a[same] === b[same]) same++;
  const lost = a.slice(same).join("");
  const got = b.slice(same).join("");
  return (
    <dl className="grid grid-cols-[auto_1fr] gap-x-3 gap-y-0.5 rounded bg-ground px-3 py-2">
      <dt className="text-soft">{say.ui.sent}</dt>
      <dd className="value">
        {a.slice(0, same).join("")}
        {lost && <mark className="bg-oddground text-ink">{lost}</mark>}
      </dd>
      <dt className="text-soft">{say.ui.stored}</dt>
      <dd className="value">
        {b.slice(0, same).join("")}
        <mark className="bg-oddground text-ink">{got || " "}</mark>
      </dd>
    </dl>
  );
}
