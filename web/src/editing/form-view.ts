import { createContext, useContext } from "react";
import { useParams } from "react-router";
import type { FormAt, Schemas } from "../api/client";

export type FormView = Schemas["FormView"];

export const FormViewContext = createContext<FormView | null>(null);

/** The form whose frame this is in. */
export function useFormView(): FormView {
  const view = useContext(FormViewContext);
  if (!view) throw new Error("useFormView is for pages within a form's frame");
  return view;
}

export function useFormAddress(): FormAt {
  const { site = "", form = "" } = useParams();
  return { site, form };
}
