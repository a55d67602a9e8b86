import { Link, useRouteError } from "react-router";

/** Stands in the place of a view that could not be drawn; what is around it goes on. */
export function Failed() {
  const error = useRouteError();
  return (
    <main className="m-8 max-w-[640px]">
      <h1 className="text-xl">This view could not be shown</h1>
      <p className="mt-2">This is a fault in Odd Tick. Nothing that you saved is lost.</p>
      <p className="mt-2 text-soft">{error instanceof Error ? error.message : String(error)}</p>
      <p className="mt-4 flex items-center gap-4">
        <button type="button" className="button px-5 py-1.5" onClick={() => window.location.reload()}>
          Reload
        </button>
        <Link className="link" to="/">
          Back to Sites
        </Link>
      </p>
    </main>
  );
}
