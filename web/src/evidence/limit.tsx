import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, type FormAt, need, type Schemas } from "../api/client";
import { TickMark } from "../ui/tick";
import { count } from "../ui/time";
import { inQuery, maySubmit, ownAddress, WhereToRun } from "../ui/where";
import { say } from "../words";

/** Looks for the place at which the site really stops taking values. */
export function Limit({
  at,
  environments,
  bound,
}: {
  at: FormAt;
  environments: Schemas["EnvironmentView"][];
  bound: Schemas["Bound"];
}) {
  const { rule, end, open } = bound;
  const [where, setWhere] = useState(ownAddress);
  const find = useMutation({
    mutationFn: () =>
      need(
        api.POST("/api/sites/{site}/forms/{form}/limit", {
          params: { path: at, query: inQuery(where) },
          body: { rule, end },
        }),
      ),
  });
  return (
    <section aria-label={say.evidence.limit} className="border-b border-line px-5 py-2">
      <div className="flex flex-wrap items-baseline gap-3">
        <WhereToRun where={where} environments={environments} set={setWhere} />
        <button
          type="button"
          className="button"
          disabled={find.isPending || !maySubmit(where, environments)}
          onClick={() => find.mutate()}
        >
          {find.isPending ? say.evidence.lookingForTheLimit : say.evidence.findTheRealLimit}
        </button>
        <span className="text-[12.5px] text-soft">
          {find.data ? (
            <strong className={find.data.as_promised && !find.data.whole ? "" : "text-odd"}>{find.data.words}</strong>
          ) : open ? (
            say.evidence.noLimitIsPromisedTries
          ) : (
            say.evidence.triesValuesBeyondTheBound
          )}
        </span>
      </div>
      {find.isError && (
        <p role="alert" className="mt-1 border-l-4 border-unseen pl-3">
          {find.error.message}
        </p>
      )}
      {find.data && <Probes limit={find.data} />}
    </section>
  );
}

type Probe = Schemas["InvestigateProbe"];

/** What was tried while a limit was looked for: on its scale, and one by one. */
export function Probes({ limit }: { limit: Schemas["InvestigateLimit"] }) {
  const probes = limit.probes;
  if (probes.length === 0) return null;
  return (
    <>
      <ProbeScale probes={probes} />
      <details className="mt-1 text-[12.5px]">
        <summary>
          {count(probes.length, say.evidence.value, say.evidence.values)} {say.evidence.tried}
        </summary>
        <ul className="max-w-[720px]">
          {probes.map((p) => (
            <li key={p.case} className="grid grid-cols-[70px_minmax(0,220px)_1fr] border-t border-line py-0.5">
              <span className={p.taken ? "font-semibold" : "text-soft"}>
                {p.taken ? say.evidence.accepted : say.evidence.rejected}
              </span>
              <span className="value">{p.value}</span>
              <span>
                {p.says}
                {p.taken && !p.whole && <span className="text-odd">{say.evidence.notStoredWhole}</span>}
              </span>
            </li>
          ))}
        </ul>
      </details>
    </>
  );
}

const width = 640;

/** The values that were tried, from the least to the farthest beyond the promised bound; the distances from it are drawn shortened. */
function ProbeScale({ probes }: { probes: Probe[] }) {
  const list = [...probes].sort((a, b) => a.at - b.at);
  const place = (at: number) => Math.sign(at) * Math.log2(1 + Math.abs(at));
  const least = place(list[0]?.at ?? 0);
  const most = place(list[list.length - 1]?.at ?? 0);
  const x = (at: number) => 40 + ((place(at) - least) / Math.max(most - least, 1)) * (width - 160);
  const promised = list.find((p) => p.at === 0);
  const taken = list.filter((p) => p.taken).at(-1);
  const last = list[list.length - 1];
  const labels = [promised, taken, last].filter(
    (p, i, all): p is Probe => p !== undefined && all.findIndex((o) => o?.at === p.at) === i,
  );
  let right = -1;
  return (
    <svg
      width={width}
      height={48}
      viewBox={`0 0 ${width} 48`}
      role="img"
      aria-label={list.map((p) => `${p.value} ${p.taken ? say.evidence.accepted : say.evidence.rejected}`).join(", ")}
      className="mt-1 max-w-full"
    >
      <line x1={20} y1={26} x2={width - 20} y2={26} stroke="var(--rule)" strokeWidth={1} />
      {promised && (
        <rect x={20} y={24.5} width={x(0) - 20} height={3} fill="var(--rule)">
          <title>{say.evidence.promisedToBeAccepted}</title>
        </rect>
      )}
      {list.map((p) => (
        <g key={p.case} transform={`translate(${x(p.at)} 6)`}>
          <title>{`${p.value}: ${p.taken ? say.evidence.accepted : say.evidence.rejected}`}</title>
          <TickMark
            verdict={p.taken === p.at <= 0 && (!p.taken || p.whole) ? "as expected" : "odd"}
            x={0}
            height={20}
          />
        </g>
      ))}
      {labels
        .sort((a, b) => a.at - b.at)
        .map((p) => {
          if (x(p.at) < right) return null;
          right = x(p.at) + p.value.length * 6.5 + 8;
          return (
            <text key={p.case} x={x(p.at)} y={44} fontSize={11.5} fill="var(--ink)">
              {p.value}
            </text>
          );
        })}
    </svg>
  );
}
