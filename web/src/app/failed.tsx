import { Link, useRouteError } from "react-router";
import { say } from "../words";

/** Stands in the place of a view that could not be drawn; what is around it goes on. */
export function Failed() {
  const error = useRouteError();
  return (
    <main className="m-8 max-w-[640px]">
      <h1 className="text-xl">{say.app.thisViewCouldNotBe}</h1>
      <p className="mt-2">{say.app.thisIsAFaultIn}</p>
      <p className="mt-2 text-soft">{error instanceof Error ? error.message : String(error)}</p>
      <p className="mt-4 flex items-center gap-4">
        <button type="button" className="button px-5 py-1.5" onClick={() => window.location.reload()}>
          {say.app.reload}
        </button>
        <Link className="link" to="/">
          {say.app.backToSites}
        </Link>
      </p>
    </main>
  );
}
