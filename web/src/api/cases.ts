import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { FormAt } from "./client";
import { api, need, needVersion, type Schemas } from "./client";

export type Depth = "quick" | "standard" | "thorough";
export const depths: Depth[] = ["quick", "standard", "thorough"];

/** How much is designed. */
export type Plan = {
  depth: Depth;
  strength: number;
  atMost: number;
  /** Combinations are computed even where they are many. */
  large: boolean;
};
export const usualPlan: Plan = { depth: "standard", strength: 2, atMost: 0, large: false };

export type CasesView = Schemas["CasesView"];
export type CaseBrief = Schemas["CaseBrief"];
export type CaseEdit = Schemas["SpecCaseEdit"];
export type Table = Schemas["DecisionTable"];
export type Column = Schemas["DecisionColumn"];
export type Combined = Schemas["DesignCombined"];
export type Techniques = Schemas["TechniquesView"];

const query = (plan: Plan) => ({
  depth: plan.depth,
  strength: plan.strength,
  at_most: plan.atMost,
  large: plan.large,
});
const path = "/api/sites/{site}/forms/{form}" as const;

export function useCases(at: FormAt, plan: Plan) {
  return useQuery({
    queryKey: ["cases", at.site, at.form, plan],
    placeholderData: (before) => before,
    queryFn: () => need(api.GET(`${path}/cases`, { params: { path: at, query: { ...query(plan), run: 0 } } })),
  });
}

export function useCase(at: FormAt, id: string | null, run: number) {
  return useQuery({
    queryKey: ["case", at.site, at.form, id, run],
    enabled: id !== null,
    placeholderData: (before) => before,
    queryFn: () => needVersion(api.GET(`${path}/case`, { params: { path: at, query: { id: id as string, run } } })),
  });
}

export function useTechniques(at: FormAt, plan: Plan) {
  return useQuery({
    queryKey: ["cases", at.site, at.form, "techniques", plan],
    placeholderData: (before) => before,
    queryFn: () => need(api.GET(`${path}/techniques`, { params: { path: at, query: query(plan) } })),
  });
}

export function useCoverage(at: FormAt, plan: Plan, observed: boolean) {
  return useQuery({
    queryKey: ["cases", at.site, at.form, "coverage", plan, observed],
    retry: false,
    placeholderData: (before) => before,
    queryFn: () => need(api.GET(`${path}/coverage`, { params: { path: at, query: { ...query(plan), observed } } })),
  });
}

export function useCaseEdits(at: FormAt) {
  return useQuery({
    queryKey: ["cases", at.site, at.form, "edits"],
    queryFn: () => needVersion(api.GET(`${path}/case-edits`, { params: { path: at } })),
  });
}

/** Edits of cases replace those before; removed ones are gone. from is the version of the edits they were made from. */
export function useEditCases(at: FormAt) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: ({ from, ...body }: { from: string; edits: CaseEdit[]; remove?: string[] }) =>
      need(api.POST(`${path}/case-edits`, { params: { path: at, header: { "If-Match": from } }, body })),
    onSettled: () =>
      Promise.all(["cases", "case", "form", "sites"].map((key) => cache.invalidateQueries({ queryKey: [key] }))),
  });
}

/** What a case would be with an edit. */
export function useCasePreview(at: FormAt, edit: CaseEdit | null) {
  return useQuery({
    queryKey: ["preview", at.site, at.form, edit],
    enabled: edit !== null,
    retry: false,
    gcTime: 0,
    placeholderData: (before) => before,
    queryFn: () => need(api.POST(`${path}/case-preview`, { params: { path: at }, body: { edit: edit as CaseEdit } })),
  });
}

export type Sheet = { text: string; columns?: string[]; usual: boolean; keep?: boolean };

/** The text of a file that holds a sheet: CSV as it is, of a workbook its first sheet. */
export function useSheetText() {
  return useMutation({
    mutationFn: async (file: File) => {
      if (!file.name.toLowerCase().endsWith(".xlsx")) return file.text();
      const bytes = new Uint8Array(await file.arrayBuffer());
      const workbook = btoa(Array.from(bytes, (b) => String.fromCharCode(b)).join(""));
      return (await need(api.POST("/api/workbook-sheet", { body: { workbook } }))).text;
    },
  });
}

export function useImportCases(at: FormAt) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (body: Sheet) => need(api.POST(`${path}/case-import`, { params: { path: at }, body })),
    onSuccess: (answer) => {
      if (answer.kept > 0) for (const key of ["cases", "case", "form"]) cache.invalidateQueries({ queryKey: [key] });
    },
  });
}

/** A decision table's columns as an expression. */
export async function tableExpression(
  at: FormAt,
  conditions: string[],
  columns: Column[],
  yes: string,
): Promise<string> {
  const answer = await need(
    api.POST(`${path}/table-expression`, { params: { path: at }, body: { conditions, columns, yes } }),
  );
  return answer.expression;
}
