import { createBrowserRouter, Navigate, type RouteObject } from "react-router";
import { AccessPage } from "./pages/access";
import { AccountPage } from "./pages/account";
import { CasePage } from "./pages/case";
import { CasesPage } from "./pages/cases";
import { Failed } from "./pages/failed";
import { FindingsPage } from "./pages/findings";
import { FirstUserPage } from "./pages/first-user";
import { FormPage } from "./pages/form";
import { FormFrame } from "./pages/form-frame";
import { Frame } from "./pages/frame";
import { HandPage } from "./pages/hand";
import { JourneysPage } from "./pages/journeys";
import { NotFound } from "./pages/not-found";
import { RulesPage } from "./pages/rules";
import { RunPage } from "./pages/run";
import { SettingsPage } from "./pages/settings";
import { SitesPage } from "./pages/sites";
import { TryPage } from "./pages/try";

// a form's views; one that fails leaves the way to the others
const form: RouteObject[] = [
  { index: true, element: <Navigate to="cases" replace /> },
  { path: "form", element: <FormPage /> },
  { path: "rules", element: <RulesPage /> },
  { path: "try", element: <TryPage /> },
  { path: "cases", element: <CasesPage /> },
  { path: "run", element: <RunPage /> },
  { path: "case", element: <CasePage /> },
  { path: "by-hand", element: <HandPage /> },
  { path: "findings", element: <FindingsPage /> },
];

export const router = createBrowserRouter([
  {
    errorElement: <Failed />,
    children: [
      { path: "/first-user", element: <FirstUserPage /> },
      {
        element: <Frame />,
        children: [
          {
            errorElement: <Failed />,
            children: [
              { index: true, element: <SitesPage /> },
              { path: "/account", element: <AccountPage /> },
              { path: "/sites/:site/settings", element: <SettingsPage /> },
              { path: "/sites/:site/access", element: <AccessPage /> },
              { path: "/sites/:site/journeys", element: <JourneysPage /> },
              {
                path: "/sites/:site/forms/:form",
                element: <FormFrame />,
                children: [{ errorElement: <Failed />, children: form }],
              },
              { path: "*", element: <NotFound /> },
            ],
          },
        ],
      },
    ],
  },
]);
