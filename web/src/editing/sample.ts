import { useQuery } from "@tanstack/react-query";
import { api, type FormAt, need } from "../api/client";

export function useSample(at: FormAt, revision: number) {
  return useQuery({
    queryKey: ["sample", at.site, at.form, revision],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => need(api.GET("/api/sites/{site}/forms/{form}/sample", { params: { path: at } })),
  });
}
