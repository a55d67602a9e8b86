import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { api, need, type Schemas } from "./client";

export type Readiness = Schemas["ReadinessView"];
export type SiteReadiness = Schemas["SiteReadiness"];
export type PartReadiness = Schemas["PartReadiness"];
export type SiteRun = Schemas["SiteRunView"];

/** Whether everything may ship, or a site, or one of its forms. */
export function useReadiness(site = "", form = "") {
  return useQuery({
    queryKey: ["readiness", site, form],
    queryFn: () =>
      need(api.GET("/api/readiness", { params: { query: { site: site || undefined, form: form || undefined } } })),
  });
}

/** How far the latest run of a whole site is; asked again while it goes on. */
export function useSiteRun(site: string) {
  const cache = useQueryClient();
  const query = useQuery({
    queryKey: ["site-run", site],
    queryFn: () => need(api.GET("/api/sites/{site}/run", { params: { path: { site } } })),
    refetchInterval: (q) => (q.state.data?.running ? 1000 : false),
  });
  // each part that comes to its end changes what other views show
  const ended = query.data?.parts.filter((p) => p.state !== "waiting" && p.state !== "running").length;
  const before = useRef(ended);
  useEffect(() => {
    if (before.current !== undefined && before.current !== ended)
      for (const first of ["sites", "readiness", "form", "run", "access", "journeys"])
        cache.invalidateQueries({ queryKey: [first] });
    before.current = ended;
  }, [ended, cache]);
  return query;
}

export function useStartSiteRun(site: string) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (query: { environment?: string; confirmed?: string }) =>
      need(api.POST("/api/sites/{site}/run", { params: { path: { site }, query } })),
    onSuccess: (view) => cache.setQueryData(["site-run", site], view),
  });
}

export function useStopSiteRun(site: string) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: () => need(api.DELETE("/api/sites/{site}/run", { params: { path: { site } } })),
    onSuccess: () => cache.invalidateQueries({ queryKey: ["site-run", site] }),
  });
}
