import { Link } from "react-router";
import { say } from "../words";

export function NotFound() {
  return (
    <main className="m-8">
      <h1 className="text-xl">{say.app.thereIsNothingAtThis}</h1>
      <p className="mt-2">
        <Link className="link" to="/">
          {say.app.backToSites}
        </Link>
      </p>
    </main>
  );
}
