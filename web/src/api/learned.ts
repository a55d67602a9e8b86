import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type FormAt, need, type Schemas } from "./client";

export type Unusual = Schemas["UnusualView"];

/** What was learned of a form the last time, compared with its document as it is now; while it is being learned, how far that is. */
export function useLearned(at: FormAt, revision: number, learning: boolean) {
  return useQuery({
    refetchInterval: (query) => (learning || query.state.data?.under_way !== undefined ? 700 : false),
    queryKey: ["learned", at.site, at.form, revision],
    placeholderData: (before) => before,
    queryFn: () => need(api.GET("/api/sites/{site}/forms/{form}/learned", { params: { path: at } })),
  });
}

/** Submits the form until it is known what the site accepts. */
export function useLearn(at: FormAt) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (from: { values: Record<string, string[]>; query: { environment?: string; confirmed?: string } }) =>
      need(
        api.POST("/api/sites/{site}/forms/{form}/learned", {
          params: { path: at, query: from.query },
          body: { values: from.values },
        }),
      ),
    onSettled: () => cache.invalidateQueries({ queryKey: ["learned", at.site, at.form] }),
  });
}

/** Stops learning; what was written is deleted. */
export function useStopLearning(at: FormAt) {
  return useMutation({
    mutationFn: () => need(api.DELETE("/api/sites/{site}/forms/{form}/learned", { params: { path: at } })),
  });
}

/** What is unusual of a run (0: the newest). */
export function useUnusual(at: FormAt, run: number) {
  return useQuery({
    queryKey: ["unusual", at.site, at.form, run],
    queryFn: () =>
      need(api.GET("/api/sites/{site}/forms/{form}/runs/{run}/unusual", { params: { path: { ...at, run } } })),
  });
}
