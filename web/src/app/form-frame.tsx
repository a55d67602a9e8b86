import { Link, NavLink, Outlet, useLocation } from "react-router";
import { type FormAt, Problem } from "../api/client";
import { useForm } from "../api/queries";
import { EditingProvider } from "../editing/edits";
import { type FormView, FormViewContext, useFormAddress } from "../editing/form-view";
import { Menu } from "../ui/menu";
import { Trouble, Waiting } from "../ui/notice";
import { usePageTitle } from "../ui/page-title";
import { ago, count } from "../ui/time";
import { say, worded } from "../words";
import { MendPage } from "./mend";

export function FormFrame() {
  const at = useFormAddress();
  const form = useForm(at);
  if (form.isPending) return <Waiting what={say.app.loadingTheForm} />;
  if (form.error instanceof Problem && form.error.type === "/problems/form-not-ready")
    return <MendPage at={at} problem={form.error} />;
  if (form.isError)
    return (
      <>
        <Trouble error={form.error} again={() => form.refetch()} />
        <p className="m-5">
          <Link className="link" to="/">
            {say.app.backToSites}
          </Link>
        </p>
      </>
    );
  return (
    <FormViewContext.Provider value={form.data}>
      <EditingProvider key={`${at.site}/${at.form}`} at={at} base={form.data.brief.revision}>
        <div className="flex min-h-full flex-col lg:h-full">
          <Strip view={form.data} at={at} />
          <div className="min-h-0 flex-1">
            <Outlet />
          </div>
        </div>
      </EditingProvider>
    </FormViewContext.Provider>
  );
}

/** The graduated strip: five parts of the work, each with a line of state. */
function Strip({ view, at }: { view: FormView; at: FormAt }) {
  const base = `/sites/${at.site}/forms/${at.form}`;
  const b = view.brief;
  const run = b.run;
  const parts = [
    { to: "form", title: say.app.form, state: count(b.fields, say.app.field, say.app.fields), alarm: false },
    {
      to: "rules",
      title: say.app.rules,
      state: `${b.rules}${view.contradictions > 0 ? `, ${count(view.contradictions, say.app.contradiction, say.app.contradictions)}` : ""}`,
      alarm: false,
    },
    { to: "cases", title: say.app.cases, state: String(b.cases), alarm: false },
    {
      to: "run",
      title: say.app.run,
      state: !run
        ? worded("never run")
        : run.state === "running"
          ? say.app.ofWord(run.done, run.total)
          : run.done < run.total
            ? say.app.ofRun(run.done, run.total)
            : `${run.number}, ${ago(run.started_at)}`,
      alarm: false,
    },
    {
      to: "findings",
      title: say.app.findings,
      state:
        !run || run.done === 0
          ? say.app.noneYet
          : run.state === "running"
            ? say.app.oddSoFar(run.odd)
            : run.done < run.total
              ? say.app.soFar(run.causes)
              : String(run.causes),
      alarm: (run?.state === "running" ? run.odd : (run?.causes ?? 0)) > 0,
    },
  ];
  const others: Record<string, string> = {
    document: say.document.everything,
    try: say.form.try,
    case: say.app.case,
    "by-hand": say.app.byHand,
    "may-it-ship": say.readiness.mayItShip,
  };
  const shown = useLocation().pathname.split("/").at(-1) ?? "";
  usePageTitle(parts.find((p) => p.to === shown)?.title ?? others[shown], view.brief.title);
  return (
    <header className="flex min-h-[75px] shrink-0 flex-wrap border-b border-line bg-panel lg:flex-nowrap">
      <div className="grow border-line px-5 pt-3.5 lg:w-[268px] lg:shrink-0 lg:grow-0 lg:border-r">
        <h1 className="truncate text-[16.5px]">{view.brief.title}</h1>
        <p className="truncate text-[12px] text-soft">
          <Link to="/" className="link">
            {view.site_title}
          </Link>{" "}
          {say.app.revision} {b.revision}
        </p>
      </div>
      <nav
        aria-label={say.app.viewsOfTheForm}
        className="ruler order-last flex w-full min-w-0 max-lg:overflow-x-auto lg:order-none lg:ml-5 lg:w-auto lg:flex-1"
      >
        {parts.map((p) => (
          <NavLink
            key={p.to}
            to={`${base}/${p.to}`}
            className="group relative block w-[134px] shrink px-2 pt-3.5 pb-5 max-sm:px-1 lg:min-w-0"
          >
            {({ isActive }) => (
              <>
                <span
                  className={`block text-[15px] max-sm:text-[13px] ${isActive ? "font-bold" : "text-soft group-hover:text-ink"}`}
                >
                  {p.title}
                </span>
                <span className={`block truncate text-[12px] ${p.alarm ? "font-semibold text-odd" : "text-soft"}`}>
                  {p.state}
                </span>
                {isActive && <span className="absolute inset-x-0 bottom-0 h-[17px] border-2 border-b-0 border-ink" />}
              </>
            )}
          </NavLink>
        ))}
      </nav>
      <div className="self-start pt-4 pr-4 pl-4 lg:shrink-0 lg:pl-2">
        <Menu />
      </div>
    </header>
  );
}
