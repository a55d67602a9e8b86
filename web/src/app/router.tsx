import { createBrowserRouter, Navigate, type RouteObject } from "react-router";
import { say } from "../words";
import { Failed } from "./failed";
import { FormFrame } from "./form-frame";
import { Frame } from "./frame";
import { NotFound } from "./not-found";

// each view comes in a file of its own, when it is first gone to
const views = {
  access: () => import("../features/access/access").then((m) => ({ Component: m.AccessPage })),
  account: () => import("../features/account/account").then((m) => ({ Component: m.AccountPage })),
  case: () => import("../features/case/case").then((m) => ({ Component: m.CasePage })),
  cases: () => import("../features/cases/cases").then((m) => ({ Component: m.CasesPage })),
  document: () => import("../features/document/form-document").then((m) => ({ Component: m.FormDocumentPage })),
  findings: () => import("../features/findings/findings").then((m) => ({ Component: m.FindingsPage })),
  firstUser: () => import("../features/account/first-user").then((m) => ({ Component: m.FirstUserPage })),
  form: () => import("../features/form/form").then((m) => ({ Component: m.FormPage })),
  journeys: () => import("../features/journeys/journeys").then((m) => ({ Component: m.JourneysPage })),
  manual: () => import("../features/manual/manual").then((m) => ({ Component: m.HandPage })),
  readiness: () => import("../features/readiness/readiness").then((m) => ({ Component: m.ReadinessPage })),
  rules: () => import("../features/rules/rules").then((m) => ({ Component: m.RulesPage })),
  run: () => import("../features/run/run").then((m) => ({ Component: m.RunPage })),
  siteDocument: () => import("../features/document/site-document").then((m) => ({ Component: m.SiteDocumentPage })),
  settings: () => import("../features/sites/settings").then((m) => ({ Component: m.SettingsPage })),
  sites: () => import("../features/sites/sites").then((m) => ({ Component: m.SitesPage })),
  try: () => import("../features/try/try").then((m) => ({ Component: m.TryPage })),
};

// a form's views; one that fails leaves the way to the others
const form: RouteObject[] = [
  { index: true, element: <Navigate to="cases" replace /> },
  { path: "form", lazy: views.form },
  { path: "document", lazy: views.document },
  { path: "rules", lazy: views.rules },
  { path: "try", lazy: views.try },
  { path: "cases", lazy: views.cases },
  { path: "run", lazy: views.run },
  { path: "case", lazy: views.case },
  { path: "by-hand", lazy: views.manual },
  { path: "findings", lazy: views.findings },
  { path: "may-it-ship", lazy: views.readiness },
];

export const router = createBrowserRouter([
  {
    errorElement: <Failed />,
    hydrateFallbackElement: <p className="m-5 text-soft">{say.app.loading}</p>,
    children: [
      { path: "/first-user", lazy: views.firstUser },
      {
        element: <Frame />,
        children: [
          {
            errorElement: <Failed />,
            children: [
              { index: true, lazy: views.sites },
              { path: "/may-it-ship", lazy: views.readiness },
              { path: "/sites/:site/may-it-ship", lazy: views.readiness },
              { path: "/account", lazy: views.account },
              { path: "/sites/:site/settings", lazy: views.settings },
              { path: "/sites/:site/document", lazy: views.siteDocument },
              { path: "/sites/:site/access", lazy: views.access },
              { path: "/sites/:site/journeys", lazy: views.journeys },
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
