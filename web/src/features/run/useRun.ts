/** Scenarios of the plan, a run with its progress, and what helps a device in it. Nothing here judges: the server does. */
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { call, client } from "@/shared/api/client";
import type { components } from "@/shared/api/schema";
import { usePlanState } from "@/shared/plan/usePlan";

type Schemas = components["schemas"];
export type RunSeen = Schemas["RunSeen"];
export type Line = RunSeen["lines"][number];
export type MoreLine = RunSeen["more"][number];
export type Station = RunSeen["stations"][number];
export type ScenarioSeen = Schemas["ScenarioSeen"];
export type Scenario = ScenarioSeen["scenario"];
export type Act = NonNullable<Scenario["acts"]>[number];
export type ActKind = Act["act"];
const POLL_MS = 250;

export function useScenarios() {
  const { view } = usePlanState();
  return useQuery({
    queryKey: ["scenarios", view.id, view.revision],
    placeholderData: keepPreviousData,
    queryFn: () => call(client.GET("/api/plans/{plan_id}/scenarios", { params: { path: { plan_id: view.id } } })),
  });
}

export interface Stretch {
  from_s: number;
  to_s: number | null;
}

/** A run for a stretch of time; while it works it is asked for again and again. */
export function useRun(scenario: string | null, stretch: Stretch) {
  const { view } = usePlanState();
  return useQuery({
    queryKey: ["run", view.id, view.revision, scenario, stretch.from_s, stretch.to_s],
    enabled: scenario !== null,
    placeholderData: (before, query) => (query?.queryKey[3] === scenario ? before : undefined),
    refetchOnWindowFocus: false,
    refetchInterval: (query) => (query.state.data?.state === "running" || query.state.data?.state === "waiting" ? POLL_MS : false),
    queryFn: () =>
      call(
        client.GET("/api/plans/{plan_id}/run", {
          params: {
            path: { plan_id: view.id },
            query: { scenario: scenario ?? "", from_s: stretch.from_s, ...(stretch.to_s === null ? {} : { to_s: stretch.to_s }) },
          },
        }),
      ),
  });
}

export function useStop(scenario: string | null) {
  const { view } = usePlanState();
  const queries = useQueryClient();
  return async () => {
    if (scenario === null) return;
    await client.POST("/api/plans/{plan_id}/run/stop", { params: { path: { plan_id: view.id } }, body: { scenario } });
    await queries.invalidateQueries({ queryKey: ["run", view.id] });
  };
}

/** Run it once more after it was stopped, or broke off. */
export function useAgain(scenario: string | null) {
  const { view } = usePlanState();
  const queries = useQueryClient();
  return async () => {
    if (scenario === null) return;
    await client.GET("/api/plans/{plan_id}/run", { params: { path: { plan_id: view.id }, query: { scenario, again: true } } });
    await queries.invalidateQueries({ queryKey: ["run", view.id] });
  };
}

/** How likely each device resets within the bands of its numbers; followed as a run is. */
export function useChances(scenario: string, asked: boolean) {
  const { view } = usePlanState();
  const queries = useQueryClient();
  const found = useQuery({
    queryKey: ["run-chances", view.id, view.revision, scenario],
    enabled: asked,
    refetchOnWindowFocus: false,
    refetchInterval: (query) => (query.state.data?.state === "running" || query.state.data?.state === "waiting" ? POLL_MS : false),
    queryFn: () => call(client.GET("/api/plans/{plan_id}/run/chances", { params: { path: { plan_id: view.id }, query: { scenario } } })),
  });
  const again = async () => {
    await client.GET("/api/plans/{plan_id}/run/chances", { params: { path: { plan_id: view.id }, query: { scenario, again: true } } });
    await queries.invalidateQueries({ queryKey: ["run-chances", view.id] });
  };
  return { ...found, again };
}

export function useHelps(scenario: string, device: string | null) {
  const { view } = usePlanState();
  return useQuery({
    queryKey: ["run-helps", view.id, view.revision, scenario, device],
    enabled: device !== null,
    refetchOnWindowFocus: false,
    queryFn: () => call(client.GET("/api/plans/{plan_id}/run/helps", { params: { path: { plan_id: view.id }, query: { scenario, device: device ?? "" } } })),
  });
}
