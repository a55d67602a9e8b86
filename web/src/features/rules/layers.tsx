import { Fragment } from "react";
import { Link } from "react-router";
import type { FormAt, Schemas } from "../../api/client";
import { say, worded } from "../../words";

/** What browser, server and database check for each field, side by side; the differences have the most room. */
export function Layers({ at, data }: { at: FormAt; data?: Schemas["ContradictionsView"] }) {
  if (!data) return null;
  const form = `/sites/${at.site}/forms/${at.form}/form`;
  const w = say.rules;
  const columns = [
    [w.field, "w-[15%]"],
    [worded("browser"), "w-[17%]"],
    [worded("server"), "w-[20%]"],
    [worded("database"), "w-[18%]"],
    [w.differences, "w-[30%]"],
  ] as const;
  const unread = [
    { is: !data.page_read, from: "page", what: w.thePageHasNotBeen, read: say.form.readThePage },
    { is: !data.tables_read, from: "tables", what: w.theTablesHaveNotBeen, read: say.form.readTheTables },
  ].filter((u) => u.is);
  return (
    <>
      {unread.length > 0 && (
        <p className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-line px-5 py-2">
          {unread.map((u) => (
            <Fragment key={u.from}>
              {u.what}
              <Link className="button" to={`${form}?from=${u.from}`}>
                {u.read}
              </Link>
            </Fragment>
          ))}
        </p>
      )}
      <table className="w-full min-w-[760px] table-fixed border-collapse">
        <caption className="sr-only">{w.whatBrowserServerAndDatabase}</caption>
        <thead className="sticky top-0 bg-ground text-left text-[12px] text-soft">
          <tr>
            {columns.map(([name, width]) => (
              <th key={name} scope="col" className={`px-4 py-1.5 font-semibold first:pl-5 ${width}`}>
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {data.layers.map((l) => (
            <tr key={l.field} className="border-t border-line align-top">
              <th scope="row" className="px-5 py-1.5 text-left text-[14px]">
                {l.label}
              </th>
              <Checks says={l.browser} read={data.page_read} />
              <Checks says={l.server} read />
              <Checks says={l.database} read={data.tables_read} />
              <td className="px-4 py-1.5">
                {l.drift.map((s) => (
                  <p key={s} className="border-l-4 border-unseen pl-2">
                    {s}
                  </p>
                ))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

function Checks({ says, read }: { says: readonly string[]; read: boolean }) {
  return (
    <td className="px-4 py-1.5 break-words">
      {says.map((s) => (
        <p key={s}>{s}</p>
      ))}
      {says.length === 0 && <span className="text-soft">{read ? say.rules.nothing : say.rules.notReadYet}</span>}
    </td>
  );
}
