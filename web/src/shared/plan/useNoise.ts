/** The noise of the plan at its head: asked for beside the plan, since it takes longer than an edit may. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo } from "react";
import { call, client } from "@/shared/api/client";
import type { Change, Finding, Fix, NoiseReview, PlanView } from "@/shared/api/types";

export function useNoise(view: PlanView) {
  return useQuery<NoiseReview>({
    queryKey: ["noise", view.id, view.revision],
    queryFn: ({ signal }) => call(client.GET("/api/plans/{plan_id}/noise", { params: { path: { plan_id: view.id } }, signal })),
    // The last noise stays while the next is worked out, but never that of another plan.
    placeholderData: (before, query) => (query?.queryKey[1] === view.id ? before : undefined),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

const RUNS_POLL_MS = 700;

/** Revisions of plans whose scenarios are to be run. */
const wanted = new Set<string>();
const revisionOf = (view: PlanView) => `${view.id} ${view.revision}`;
const runFindings = (view: PlanView) => ["run-findings", view.id, view.revision];

/** What runs of scenarios have shown so far, and how many are still to come. */
export function useRunFindings(view: PlanView) {
  return useQuery({
    queryKey: runFindings(view),
    queryFn: ({ signal }) =>
      call(client.GET("/api/plans/{plan_id}/run/findings", { params: { path: { plan_id: view.id }, query: { start: wanted.has(revisionOf(view)) } }, signal })),
    refetchInterval: (query) => ((query.state.data?.waiting ?? 0) > 0 ? RUNS_POLL_MS : false),
  });
}

/** A plan that has stood as it is for so long is not being worked on: what its scenarios find is worked out. */
export const AT_REST_MS = 4000;

/** Has every scenario run after so long, for their findings; `null`: not yet. */
export function useBackgroundRuns(view: PlanView, afterMs: number | null) {
  const queries = useQueryClient();
  const { id, revision } = view;
  useEffect(() => {
    if (afterMs === null) return;
    const one = { id, revision } as PlanView;
    const timer = setTimeout(() => {
      if (wanted.has(revisionOf(one))) return;
      wanted.add(revisionOf(one));
      void queries.invalidateQueries({ queryKey: runFindings(one) });
    }, afterMs);
    return () => clearTimeout(timer);
  }, [id, revision, afterMs, queries]);
}

/** All findings of the plan; those of the noise, and of runs, join when they are worked out. */
export function useFindings(view: PlanView): Finding[] {
  const noise = useNoise(view).data;
  const runs = useRunFindings(view).data;
  return useMemo(() => [...view.analysis.findings, ...(noise?.findings ?? []), ...(runs?.findings ?? [])], [view, noise, runs]);
}

/** By finding the fixes that were tried and cure it; trying them takes longer than an edit may. */
export function useFixes(view: PlanView): { fixes: Map<string, Fix[]>; checking: boolean } {
  const found = useQuery({
    queryKey: ["fixes", view.id, view.revision],
    queryFn: ({ signal }) =>
      call(client.GET("/api/plans/{plan_id}/fixes", { params: { path: { plan_id: view.id }, query: { revision: view.revision } }, signal })),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const fixes = useMemo(() => new Map((found.data?.findings ?? []).map((one) => [one.key, one.fixes])), [found.data]);
  return { fixes, checking: found.isPending };
}

/** What the step just taken did to the noise. */
export function useNoiseChanges(view: PlanView): Change[] {
  const before = view.before ?? 0;
  const found = useQuery<Change[]>({
    queryKey: ["noise-changes", view.id, view.revision, before],
    enabled: before > 0,
    queryFn: ({ signal }) => call(client.GET("/api/plans/{plan_id}/noise/changes", { params: { path: { plan_id: view.id }, query: { before } }, signal })),
    staleTime: Number.POSITIVE_INFINITY,
  });
  return found.data ?? [];
}
