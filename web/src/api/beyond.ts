import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, need, type Schemas } from "./client";

export type AccessView = Schemas["AccessView"];
export type JourneysView = Schemas["JourneysView"];

/** Where something of a site is looked at or run, as requests name it. */
type Query = { environment?: string; confirmed?: string };

export function useAccess(site: string, { environment }: Query) {
  return useQuery({
    queryKey: ["access", site, environment],
    retry: false,
    // of another environment of the site only the report differs
    placeholderData: (before, last) =>
      before && last?.queryKey[1] === site ? { ...before, report: undefined } : undefined,
    queryFn: () => need(api.GET("/api/sites/{site}/access", { params: { path: { site }, query: { environment } } })),
  });
}

/** Opens every page as every account. */
export function useSweep(site: string, query: Query) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: () => need(api.POST("/api/sites/{site}/access", { params: { path: { site }, query } })),
    onSuccess: (v) => cache.setQueryData(["access", site, query.environment], v),
  });
}

export function useJourneys(site: string, { environment }: Query) {
  return useQuery({
    queryKey: ["journeys", site, environment],
    retry: false,
    placeholderData: (before, last) =>
      before && last?.queryKey[1] === site
        ? { ...before, journeys: before.journeys.map((j) => ({ ...j, report: undefined })) }
        : undefined,
    queryFn: () => need(api.GET("/api/sites/{site}/journeys", { params: { path: { site }, query: { environment } } })),
  });
}

/** Walks one journey in all its ways. */
export function useWalk(site: string, query: Query) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (journey: string) =>
      need(api.POST("/api/sites/{site}/journeys/{journey}", { params: { path: { site, journey }, query } })),
    onSuccess: (v) => cache.setQueryData(["journeys", site, query.environment], v),
  });
}
