import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type FormAt, need } from "./client";

/** What would be lost with a form; asked for only while wanted. */
export function useFormHoldings(at: FormAt, wanted: boolean) {
  return useQuery({
    queryKey: ["holdings", at.site, at.form],
    enabled: wanted,
    staleTime: 0,
    queryFn: () => need(api.GET("/api/sites/{site}/forms/{form}/holdings", { params: { path: at } })),
  });
}

/** What would be lost with a site. */
export function useSiteHoldings(site: string, wanted: boolean) {
  return useQuery({
    queryKey: ["holdings", site],
    enabled: wanted,
    staleTime: 0,
    queryFn: () => need(api.GET("/api/sites/{site}/holdings", { params: { path: { site } } })),
  });
}

/** A change after which everything that was read may be another. */
function useChange<T>(change: (of: T) => Promise<unknown>, done: () => void) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: change,
    onSuccess: async () => {
      await cache.invalidateQueries();
      done();
    },
  });
}

export const useDeleteForm = (at: FormAt, done: () => void) =>
  useChange(() => need(api.DELETE("/api/sites/{site}/forms/{form}", { params: { path: at } })), done);

export const useDeleteSite = (site: string, done: () => void) =>
  useChange(() => need(api.DELETE("/api/sites/{site}", { params: { path: { site } } })), done);

export const useDeleteRun = (at: FormAt, run: number, done: () => void) =>
  useChange(
    () => need(api.DELETE("/api/sites/{site}/forms/{form}/runs/{run}", { params: { path: { ...at, run } } })),
    done,
  );

export const useDuplicateForm = (at: FormAt, done: () => void) =>
  useChange(
    (body: { id: string; title: string }) =>
      need(api.POST("/api/sites/{site}/forms/{form}/duplicate", { params: { path: at }, body })),
    done,
  );

export const useMoveForm = (at: FormAt, done: () => void) =>
  useChange(
    (to: string) => need(api.POST("/api/sites/{site}/forms/{form}/move", { params: { path: at }, body: { to } })),
    done,
  );

/** Gives a form another title, as a revision of its own. */
export const useRenameForm = (at: FormAt, base: number, done: () => void) =>
  useChange(
    (title: string) =>
      need(
        api.POST("/api/sites/{site}/forms/{form}/edits", {
          params: { path: at },
          body: { base, edits: [{ do: "set", path: "title", value: title }] },
        }),
      ),
    done,
  );
