import type { Schemas } from "../api/client";
import { Value } from "../ui/value";
import { say } from "../words";

type Step = Schemas["ObservationStep"];
type Text = Schemas["ObservationText"];

/** What only a browser sees of a step: how fields were entered, what the browser itself says, and the page as it is drawn. */
export function Drawn({ step, picture }: { step: Step; picture?: string }) {
  const d = step.drawn;
  if (!d) return null;
  const entered = (d.entered ?? []).filter((e) => e.changed || e.refused);
  const lines: [string, string[]][] = [
    [say.evidence.theBrowserSays, (d.native ?? []).filter((n) => n.shown).map((n) => say.evidence.at(n.text, n.field))],
    [say.evidence.button, d.blocked ? [d.blocked] : []],
    [say.evidence.dialog, d.dialogs ?? []],
    [say.evidence.scriptErrors, d.errors ?? []],
    [say.evidence.failedRequests, (d.lost ?? []).map((l) => `${l.url}: ${l.why}`)],
    [say.evidence.notLoadedBecauseNotAllowed, d.not_asked ?? []],
    [say.evidence.focus, d.focus ? [d.focus] : []],
  ];
  return (
    <section aria-label={say.evidence.inTheBrowser} className="mt-4">
      <h3 className="font-semibold">{say.evidence.inTheBrowser}</h3>
      {entered.length > 0 && (
        <table className="table w-full">
          <caption className="sr-only">{say.evidence.valuesThatThePageChanged}</caption>
          <thead>
            <tr>
              <th scope="col">{say.evidence.field}</th>
              <th scope="col">{say.evidence.entered}</th>
              <th scope="col">{say.evidence.inThePage}</th>
            </tr>
          </thead>
          <tbody>
            {entered.map((e) => (
              <tr key={e.name}>
                <td className="value w-[120px]">{e.name}</td>
                <td>
                  <Value>{e.typed}</Value>
                </td>
                <td>{e.refused ? e.refused : <Value>{e.stands ?? ""}</Value>}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <dl className="grid grid-cols-[150px_minmax(0,1fr)] gap-x-2">
        {lines
          .filter(([, list]) => list.length > 0)
          .map(([title, list]) => (
            <div key={title} className="contents">
              <dt className="text-soft">{title}</dt>
              <dd className="break-words">
                {list.map((line) => (
                  <p key={line}>{line}</p>
                ))}
              </dd>
            </div>
          ))}
      </dl>
      {picture && (
        <Picture
          src={picture}
          width={1280}
          height={Math.max(200, Math.min(d.height ?? 800, 2000))}
          texts={step.after?.texts ?? []}
        />
      )}
    </section>
  );
}

/** The page as it was drawn, with its messages framed; those that a person cannot see are framed with dots. */
function Picture({ src, width, height, texts }: { src: string; width: number; height: number; texts: Text[] }) {
  const marked = texts.filter((t) => t.box && (t.alarm || (t.hidden && t.field)) && (t.box[2] ?? 0) > 1);
  return (
    <figure className="mt-2">
      <div className="relative border border-line">
        <img src={src} alt={say.evidence.thePageAfterTheSubmission} className="block w-full" />
        <svg viewBox={`0 0 ${width} ${height}`} className="absolute inset-0 h-full w-full" aria-hidden="true">
          {marked.map((t) => {
            const [x = 0, y = 0, w = 0, h = 0] = t.box ?? [];
            return (
              <rect
                key={`${t.text}${t.field}${x}-${y}`}
                x={x - 4}
                y={y - 3}
                width={w + 8}
                height={h + 6}
                fill="none"
                strokeWidth={3}
                className="stroke-odd"
                strokeDasharray={t.hidden ? "4 6" : undefined}
              />
            );
          })}
        </svg>
      </div>
      <figcaption className="text-[12px] text-soft">
        {marked.length === 0
          ? say.evidence.noMessageOnThePage
          : say.evidence.framed(
              marked.map((t) => `“${t.text}”${t.hidden ? ` (${t.unseen || "hidden"})` : ""}`).join(", "),
            )}
      </figcaption>
    </figure>
  );
}
