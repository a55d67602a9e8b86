import { type FormEvent, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import type { FormAt } from "../../api/client";
import { type TriageView, useTriage } from "../../api/findings";
import { Kbd, useKey } from "../../ui/keys";
import { moment } from "../../ui/time";
import { say, worded } from "../../words";

const states = ["open", "known", "fixed", "not a defect"] as const;
const severities = ["critical", "major", "minor", "trivial"] as const;

/** A triage in brief, for a line of a list; nothing where nothing was said. */
export function triageOf(triage?: TriageView): string {
  if (!triage) return "";
  return [
    triage.state,
    triage.until && (triage.lapsed ? say.findings.untilNowOver(triage.until) : say.findings.until(triage.until)),
  ]
    .filter(Boolean)
    .join(", ");
}

/** What testers said of a finding, and the form to record something else. */
export function Triage(props: {
  at: FormAt;
  run: number;
  finding: string;
  row?: string;
  triage?: TriageView;
  proposed: string;
  history: TriageView[];
  version: string;
}) {
  const go = useNavigate();
  const specification = `/sites/${props.at.site}/forms/${props.at.form}/rules${props.row ? `?field=${props.row}` : ""}`;
  useKey("s", () => go(specification));
  const record = useTriage(props.at, props.run, props.finding);
  // what it is said of; what others said meanwhile counts as seen once it was told
  const from = useRef(props.version);
  if (record.isError) from.current = props.version;
  const [state, setState] = useState<TriageView["state"]>(props.triage?.state ?? "open");
  const submit = (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const f = new FormData(e.currentTarget);
    const text = (name: string) => String(f.get(name) ?? "").trim() || undefined;
    const body = {
      state,
      severity: text("severity") as TriageView["severity"],
      link: text("link"),
      until: state === "known" ? text("until") : undefined,
      comment: text("comment"),
    };
    record.mutate(
      { from: from.current, body },
      {
        onSuccess: (said) => {
          from.current = said.version;
        },
      },
    );
  };
  return (
    <section aria-label={say.findings.triage} className="mt-4 border-t border-line pt-3">
      <h3>{say.findings.triage}</h3>
      <form
        className="mt-1 grid grid-cols-1 sm:grid-cols-2 lg:grid-cols-[120px_170px_150px_minmax(0,1fr)_auto] items-end gap-2"
        onSubmit={submit}
      >
        <label>
          <span className="block text-[12px] text-soft">{say.findings.state}</span>
          <select
            className="field w-full"
            value={state}
            onChange={(e) => setState(e.target.value as TriageView["state"])}
          >
            {states.map((s) => (
              <option key={s} value={s}>
                {worded(s)}
              </option>
            ))}
          </select>
        </label>
        <label>
          <span className="block text-[12px] text-soft">{say.findings.severity}</span>
          <select className="field w-full" name="severity" defaultValue={props.triage?.severity ?? ""}>
            <option value="">
              {worded(props.proposed)} {say.findings.proposed}
            </option>
            {severities.map((s) => (
              <option key={s} value={s}>
                {worded(s)}
              </option>
            ))}
          </select>
        </label>
        <label>
          <span className="block text-[12px] text-soft">{say.findings.knownUntil}</span>
          <input
            className="field w-full"
            type="date"
            name="until"
            disabled={state !== "known"}
            defaultValue={props.triage?.until ?? ""}
          />
        </label>
        <label>
          <span className="block text-[12px] text-soft">{say.findings.link}</span>
          <input
            className="field w-full"
            name="link"
            type="url"
            placeholder={say.findings.httpsTrackerExample412}
            defaultValue={props.triage?.link ?? ""}
          />
        </label>
        <button type="submit" className="button" disabled={record.isPending}>
          {say.findings.save}
        </button>
        <label className="sm:col-span-2 lg:col-span-5">
          <span className="block text-[12px] text-soft">{say.findings.comment}</span>
          <textarea className="field w-full" name="comment" rows={2} defaultValue={props.triage?.comment ?? ""} />
        </label>
      </form>
      {record.isError && (
        <p role="alert" className="mt-1 border-l-4 border-unseen pl-3">
          {record.error.message}
        </p>
      )}
      {state === "not a defect" && (
        <p className="mt-1">
          {say.findings.ifTheRuleIsWrong}{" "}
          <Link className="link" to={specification}>
            {say.findings.correctTheSpecification}
          </Link>{" "}
          <Kbd>{say.findings.s}</Kbd>
        </p>
      )}
      {props.history.length > 0 && (
        <ol aria-label={say.findings.history} className="mt-1 text-[12.5px]">
          {props.history.map((w) => (
            <li key={w.at} className="border-t border-line py-0.5">
              <strong>{triageOf(w)}</strong> · {w.by}, {w.at && moment(w.at)}
              {w.link && (
                <>
                  {" · "}
                  <a className="link" href={w.link} target="_blank" rel="noreferrer noopener">
                    {w.link}
                  </a>
                </>
              )}
              {w.comment && <span className="block">{w.comment}</span>}
            </li>
          ))}
        </ol>
      )}
    </section>
  );
}
