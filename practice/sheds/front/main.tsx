import { StrictMode, useEffect, useState } from "react";
import { createRoot } from "react-dom/client";
import { ask, signedIn, signOut } from "./api";
import { Build } from "./build";
import { OwnDetails } from "./details";
import { Enter } from "./enter";
import type { Choice } from "./fields";
import { Keys } from "./keys";
import "./style.css";

const GUARDED = ["/sheds/new", "/me"];

function App() {
  const [path, setPath] = useState(location.pathname);
  const [plots, setPlots] = useState<Choice[] | null>(null);
  const go = (to: string) => {
    history.pushState(null, "", to);
    setPath(to);
  };
  useEffect(() => {
    const moved = () => setPath(location.pathname);
    addEventListener("popstate", moved);
    return () => removeEventListener("popstate", moved);
  }, []);
  useEffect(() => {
    ask<Choice[]>("GET", "/api/plots").then(setPlots, () => setPlots([]));
  }, []);
  useEffect(() => {
    if (GUARDED.includes(path) && !signedIn()) {
      history.replaceState(null, "", "/sign-in");
      setPath("/sign-in");
    }
  }, [path]);
  const link = (to: string, text: string) => (
    <a
      href={to}
      onClick={(e) => {
        e.preventDefault();
        go(to);
      }}
    >
      {text}
    </a>
  );
  return (
    <>
      <header>
        <b>Ostlewick Sheds</b>
        <nav>
          {link("/", "Home")}
          {link("/keys", "Keys")}
          {signedIn() ? (
            <>
              {link("/sheds/new", "Apply for a shed")}
              {link("/me", "Your details")}
              <button
                type="button"
                onClick={() => {
                  signOut();
                  go("/");
                }}
              >
                Sign out
              </button>
            </>
          ) : (
            link("/sign-in", "Sign in")
          )}
        </nav>
      </header>
      <main>
        {plots === null ? (
          <p>Loading …</p>
        ) : path === "/keys" ? (
          <Keys plots={plots} />
        ) : path === "/sign-in" ? (
          <Enter entered={() => go("/me")} />
        ) : path === "/sheds/new" && signedIn() ? (
          <Build plots={plots} />
        ) : path === "/me" && signedIn() ? (
          <OwnDetails />
        ) : path === "/" ? (
          <>
            <h1>Sheds of the Ostlewick allotments</h1>
            <p>Keys for sheds that stand, and applications for those to be built.</p>
          </>
        ) : (
          <p>There is no such page.</p>
        )}
      </main>
    </>
  );
}

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <App />
    </StrictMode>,
  );
}
