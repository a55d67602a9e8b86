import { useFormView } from "./form-frame";

/** Where the form is, and where each value goes. */
export function FormPage() {
  const f = useFormView();
  return (
    <main tabIndex={0} className="h-full overflow-auto bg-panel px-5 py-4">
      <dl className="grid max-w-4xl grid-cols-[120px_1fr] gap-y-1">
        <dt className="text-soft">page</dt>
        <dd className="value">
          {f.address}
          {f.page}
        </dd>
        <dt className="text-soft">submits</dt>
        <dd className="value">
          {f.method} {f.to}, {f.encoding}
        </dd>
        <dt className="text-soft">token</dt>
        <dd className="value">{(f.tokens ?? []).join(", ") || "none"}</dd>
        <dt className="text-soft">visitor</dt>
        <dd>{f.state}</dd>
        <dt className="text-soft">watched</dt>
        <dd>{(f.watched ?? []).join(", ") || "no database: what is stored cannot be observed"}</dd>
      </dl>
      <table className="table mt-5 w-full max-w-5xl">
        <caption className="sr-only">Fields in page order</caption>
        <thead>
          <tr>
            <th scope="col">field</th>
            <th scope="col">kind</th>
            <th scope="col">name in the request</th>
            <th scope="col">what the server makes of it</th>
            <th scope="col">stored in</th>
          </tr>
        </thead>
        <tbody>
          {(f.fields ?? []).map((x) => (
            <tr key={x.id}>
              <td className="font-semibold">{x.label}</td>
              <td>
                {x.kind}
                {x.secret && <span className="text-soft">, secret</span>}
              </td>
              <td className="value">{x.name}</td>
              <td>{(x.sent ?? []).join(", then ") || <span className="text-soft">as sent</span>}</td>
              <td className="value">
                {(x.columns ?? []).join(", ") || <span className="font-sans text-soft">nowhere</span>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {(f.stored ?? []).map((t) => (
        <section key={t.table} className="mt-6 max-w-3xl">
          <h2 className="text-[14px]">
            Accepted, a row in <span className="value">{t.table}</span>
          </h2>
          <table className="table mt-1 w-full">
            <tbody>
              {(t.columns ?? []).map((c) => (
                <tr key={c.name}>
                  <td className="value w-[200px]">{c.name}</td>
                  <td>{c.words}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      ))}
    </main>
  );
}
