/** An instant of a run as one more condition of the plan on screen: every view then shows it. */
import { useQuery } from "@tanstack/react-query";
import { call, client } from "@/shared/api/client";
import type { components } from "@/shared/api/schema";
import type { PlanView } from "@/shared/api/types";

export const INSTANT = "instant";
export type Instant = components["schemas"]["Instant"];

/** The instant named in the address, once its run is through. One that cannot be had is none. */
export function useInstant(view: PlanView | undefined, scenario: string | null, at: string | null): Instant | undefined {
  const atS = at === null ? Number.NaN : Number(at);
  const found = useQuery({
    queryKey: ["instant", view?.id, view?.revision, scenario, atS],
    enabled: view !== undefined && scenario !== null && Number.isFinite(atS) && atS >= 0,
    placeholderData: (before, query) => (query?.queryKey[2] === view?.revision && query?.queryKey[3] === scenario ? before : undefined),
    retry: false,
    refetchOnWindowFocus: false,
    queryFn: () =>
      call(client.GET("/api/plans/{plan_id}/run/instant", { params: { path: { plan_id: view?.id ?? 0 }, query: { scenario: scenario ?? "", at_s: atS } } })),
  });
  return found.data;
}

/** The plan with the instant's numbers beside those of its conditions. */
export function withInstant(view: PlanView, now: Instant): PlanView {
  const { budget, returns } = view.analysis;
  const put = <T extends { id: string; states: Record<string, S> }, S>(own: T[], states: Record<string, S>): T[] =>
    own.map((one) => ({ ...one, states: { ...one.states, [INSTANT]: states[one.id] ?? (Object.values(one.states)[0] as S) } }));
  return {
    ...view,
    analysis: {
      ...view.analysis,
      budget: {
        ...budget,
        conditions: [...budget.conditions, now.head],
        rails: put(budget.rails, now.rails),
        supplies: put(budget.supplies, now.supplies),
        devices: put(budget.devices, now.devices),
      },
      returns: { ...returns, grounds: put(returns.grounds, now.grounds), segments: put(returns.segments, now.segments) },
    },
  };
}
