import { useMutation } from "@tanstack/react-query";
import { api, type FormAt, need, type Schemas } from "../api/client";
import { count } from "./time";

/** The rule and the end of its range that a case of boundary values is about; nothing for any other case. */
export function boundOf(c: Schemas["DesignCase"]): { rule: string; end: "min" | "max" } | undefined {
  for (const what of c.covers ?? []) {
    const found = /^boundary (\S+\.(?:length|range)\S*) (min|max)/.exec(what);
    if (found?.[1]) return { rule: found[1], end: found[2] === "min" ? "min" : "max" };
  }
  return undefined;
}

/** Looks for the place at which the site really stops taking values. */
export function Limit({ at, rule, end }: { at: FormAt; rule: string; end: "min" | "max" }) {
  const find = useMutation({
    mutationFn: () =>
      need(api.POST("/api/sites/{site}/forms/{form}/limit", { params: { path: at }, body: { rule, end } })),
  });
  const probes = find.data?.probes ?? [];
  return (
    <section aria-label="Limit" className="border-b border-line px-5 py-2">
      <div className="flex items-baseline gap-3">
        <button type="button" className="button" disabled={find.isPending} onClick={() => find.mutate()}>
          {find.isPending ? "Looking for the limit …" : "Find the limit"}
        </button>
        <span className="text-[12.5px] text-soft">
          {find.data ? (
            <strong className={find.data.as_promised && !find.data.whole ? "" : "text-odd"}>{find.data.words}</strong>
          ) : (
            "submits values beyond the bound, halving the distance, until the site's own limit is known"
          )}
        </span>
      </div>
      {find.isError && (
        <p role="alert" className="mt-1 border-l-4 border-unseen pl-3">
          {find.error.message}
        </p>
      )}
      {probes.length > 0 && (
        <details className="mt-1 text-[12.5px]">
          <summary>{count(probes.length, "submission")}</summary>
          <ul className="max-w-[720px]">
            {probes.map((p) => (
              <li key={p.case} className="grid grid-cols-[70px_220px_1fr] border-t border-line py-0.5">
                <span className={p.taken ? "font-semibold" : "text-soft"}>{p.taken ? "taken" : "refused"}</span>
                <span className="value">{p.value}</span>
                <span>
                  {p.says}
                  {p.taken && !p.whole && <span className="text-odd">, not stored whole</span>}
                </span>
              </li>
            ))}
          </ul>
        </details>
      )}
    </section>
  );
}
