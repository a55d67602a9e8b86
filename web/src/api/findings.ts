import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type FormAt, need, needVersion, type Schemas } from "./client";

export type FindingView = Schemas["FindingView"];
export type TriageView = Schemas["TriageView"];

/** The findings of a run (0: the newest), held against another run where one is named. */
export function useFindings(at: FormAt, run: number, against: number) {
  return useQuery({
    queryKey: ["findings", at.site, at.form, run, against],
    retry: false,
    queryFn: () =>
      need(
        api.GET("/api/sites/{site}/forms/{form}/runs/{run}/findings", {
          params: { path: { ...at, run }, query: { with: against } },
        }),
      ),
  });
}

/** How a finding is seen; while it is looked at further, how far that is. */
export function useFinding(at: FormAt, run: number, finding: string, looking: boolean) {
  return useQuery({
    refetchInterval: (query) => (looking || query.state.data?.looking ? 700 : false),
    queryKey: ["finding", at.site, at.form, run, finding],
    enabled: run > 0 && finding !== "",
    queryFn: () =>
      needVersion(
        api.GET("/api/sites/{site}/forms/{form}/runs/{run}/findings/{finding}", {
          params: { path: { ...at, run, finding } },
        }),
      ),
  });
}

/** Says what is to be held of a finding, knowing what was said up to the version from. */
export function useTriage(at: FormAt, run: number, finding: string) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: ({ from, body }: { from: string; body: TriageView }) =>
      needVersion(
        api.POST("/api/sites/{site}/forms/{form}/runs/{run}/findings/{finding}/triage", {
          params: { path: { ...at, run, finding }, header: { "If-Match": from } },
          body,
        }),
      ),
    onSettled: () =>
      Promise.all([
        cache.invalidateQueries({ queryKey: ["findings", at.site, at.form] }),
        cache.invalidateQueries({ queryKey: ["finding", at.site, at.form, run, finding] }),
      ]),
  });
}

/** Stops looking further; what is known by then stays. */
export function useStopLooking(at: FormAt, run: number, finding: string) {
  return useMutation({
    mutationFn: () =>
      need(
        api.DELETE("/api/sites/{site}/forms/{form}/runs/{run}/findings/{finding}/investigation", {
          params: { path: { ...at, run, finding } },
        }),
      ),
  });
}

/** Where the finding's run was made, repeats its simplest case, makes it smaller, and finds the site's limit. */
export function useFurther(at: FormAt, run: number, finding: string) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (confirmed: string) =>
      need(
        api.POST("/api/sites/{site}/forms/{form}/runs/{run}/findings/{finding}/investigation", {
          params: { path: { ...at, run, finding }, query: { confirmed: confirmed || undefined } },
        }),
      ),
    onSuccess: () => cache.invalidateQueries({ queryKey: ["finding", at.site, at.form, run, finding] }),
  });
}
