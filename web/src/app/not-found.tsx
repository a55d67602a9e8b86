import { Link } from "react-router";

export function NotFound() {
  return (
    <main className="m-8">
      <h1 className="text-xl">There is nothing at this address</h1>
      <p className="mt-2">
        <Link className="link" to="/">
          Back to Sites
        </Link>
      </p>
    </main>
  );
}
