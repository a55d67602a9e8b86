import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { type Plan, usualPlan } from "./cases";
import { api, type FormAt, keepToken, need, type Schemas } from "./client";

export function useSession() {
  return useQuery({
    queryKey: ["session"],
    queryFn: async () => {
      const session = await need(api.GET("/api/session"));
      keepToken(session.token);
      return session;
    },
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export function useSignIn() {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (body: { name: string; password: string }) => need(api.POST("/api/session", { body })),
    onSuccess: (session) => {
      keepToken(session.token);
      cache.setQueryData(["session"], session);
      cache.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "session" }); // what the end of a session refused
    },
  });
}

export function useSignOut() {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: () => need(api.DELETE("/api/session")),
    onSuccess: () => {
      keepToken("");
      cache.clear();
      window.location.assign("/");
    },
  });
}

export function useSites() {
  return useQuery({ queryKey: ["sites"], queryFn: () => need(api.GET("/api/sites")) });
}

export function useForm(at: FormAt) {
  return useQuery({
    queryKey: ["form", at.site, at.form],
    queryFn: () => need(api.GET("/api/sites/{site}/forms/{form}", { params: { path: at } })),
  });
}

export type RunView = Schemas["RunView"];
export type Mark = Schemas["Mark"];

const runKey = (at: FormAt, run: number) => ["run", at.site, at.form, run];

export function useRun(at: FormAt, run: number) {
  return useQuery({
    queryKey: runKey(at, run),
    retry: false,
    queryFn: () => need(api.GET("/api/sites/{site}/forms/{form}/runs/{run}", { params: { path: { ...at, run } } })),
  });
}

/** Patches the cached run with results as they come. A lost connection resumes after the last result seen. */
export function useLive(at: FormAt, run: number, view: RunView | undefined) {
  const cache = useQueryClient();
  const running = view?.run.state === "running";
  const { site, form } = at;
  useEffect(() => {
    if (!running) return;
    const key = runKey({ site, form }, run);
    const seen = cache.getQueryData<RunView>(key)?.marks?.at(-1)?.seq ?? 0;
    const source = new EventSource(`/api/sites/${site}/forms/${form}/runs/${run}/events?after=${seen}`);
    source.addEventListener("mark", (e) => {
      const mark = JSON.parse((e as MessageEvent).data) as Mark;
      const now = cache.setQueryData<RunView>(key, (old) => (old ? withMark(old, mark) : old));
      // the strip above shows the same run
      cache.setQueryData<Schemas["FormView"]>(["form", site, form], (old) =>
        old?.brief.run && now && old.brief.run.number === now.run.number
          ? { ...old, brief: { ...old.brief, run: now.run } }
          : old,
      );
    });
    source.addEventListener("end", () => {
      source.close();
      for (const first of ["run", "cases", "form", "sites", "case"]) cache.invalidateQueries({ queryKey: [first] });
    });
    return () => source.close();
  }, [running, site, form, run, cache]);
}

/** Adds a result to a run; one already there is left alone. */
export function withMark(view: RunView, mark: Mark): RunView {
  const marks = view.marks;
  if ((marks.at(-1)?.seq ?? 0) >= mark.seq) return view;
  const again = marks.some((m) => m.case === mark.case);
  return {
    ...view,
    marks: [...marks, mark],
    run: {
      ...view.run,
      done: view.run.done + (again ? 0 : 1),
      odd: view.run.odd + (mark.verdict === "odd" ? 1 : 0),
      not_observed: view.run.not_observed + (mark.verdict === "not observed" ? 1 : 0),
      none: view.run.none + (mark.verdict === "does not apply" ? 1 : 0),
    },
  };
}

/** What a run is made of, and how. */
export type RunChoices = {
  driver?: "http" | "browser";
  rows?: string[];
  only?: "odd" | "not_observed" | "new";
  stop_at_odd?: boolean;
  clean_up?: boolean;
  parallel?: number;
  max_per_minute?: number;
  by_hand?: boolean;
  environment?: string;
  /** The id of a protected environment, as it was typed. */
  confirmed?: string;
};

type PlannedRun = { plan?: Plan } & Partial<RunChoices> & { cases?: string[] };

function runBody({ plan = usualPlan, ...rest }: PlannedRun) {
  return { depth: plan.depth, strength: plan.strength, at_most: plan.atMost, large: plan.large, ...rest };
}

/** What a run would do, before it is started. */
export function useRunPreview(at: FormAt, run: PlannedRun, wanted: boolean) {
  const { confirmed: _, ...planned } = run;
  return useQuery({
    queryKey: ["run-preview", at.site, at.form, planned],
    enabled: wanted,
    retry: false,
    staleTime: 0,
    placeholderData: keepPreviousData,
    queryFn: () =>
      need(api.POST("/api/sites/{site}/forms/{form}/runs/preview", { params: { path: at }, body: runBody(planned) })),
  });
}

export function useStart(at: FormAt) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (run: PlannedRun) =>
      need(api.POST("/api/sites/{site}/forms/{form}/runs", { params: { path: at }, body: runBody(run) })),
    onSuccess: () => {
      for (const first of ["form", "sites", "run", "cases"]) cache.invalidateQueries({ queryKey: [first] });
    },
  });
}

/** Lets a run go on that was stopped. */
export function useResume(at: FormAt, run: number) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: () =>
      need(api.POST("/api/sites/{site}/forms/{form}/runs/{run}/resume", { params: { path: { ...at, run } } })),
    onSettled: () => {
      for (const first of ["form", "sites", "run", "cases"]) cache.invalidateQueries({ queryKey: [first] });
    },
  });
}

export function useStop(at: FormAt, run: number) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: () =>
      need(api.POST("/api/sites/{site}/forms/{form}/runs/{run}/stop", { params: { path: { ...at, run } } })),
    onSettled: () => cache.invalidateQueries({ queryKey: runKey(at, run) }),
  });
}
