import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, need, type Schemas } from "./client";

export type AccessView = Schemas["AccessView"];
export type JourneysView = Schemas["JourneysView"];

export function useAccess(site: string) {
  return useQuery({
    queryKey: ["access", site],
    retry: false,
    queryFn: () => need(api.GET("/api/sites/{site}/access", { params: { path: { site } } })),
  });
}

/** Opens every page as every account. */
export function useSweep(site: string) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: () => need(api.POST("/api/sites/{site}/access", { params: { path: { site } } })),
    onSuccess: (v) => cache.setQueryData(["access", site], v),
  });
}

export function useJourneys(site: string) {
  return useQuery({
    queryKey: ["journeys", site],
    retry: false,
    queryFn: () => need(api.GET("/api/sites/{site}/journeys", { params: { path: { site } } })),
  });
}

/** Walks one journey in all its ways. */
export function useWalk(site: string) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (journey: string) =>
      need(api.POST("/api/sites/{site}/journeys/{journey}", { params: { path: { site, journey } } })),
    onSuccess: (v) => cache.setQueryData(["journeys", site], v),
  });
}
