/** Layouts of a plan: asked with wishes, one made a plan, the places of one device. */
import { useQuery } from "@tanstack/react-query";
import { call, client } from "@/shared/api/client";
import type { components } from "@/shared/api/schema";
import { usePlanState } from "@/shared/plan/usePlan";

export type Wishes = components["schemas"]["WishesBody"];
export type Layout = components["schemas"]["LayoutSeen"];
export type Layouts = components["schemas"]["LayoutsSeen"];
export type Numbers = components["schemas"]["NumbersSeen"];
export type Line = components["schemas"]["LayoutLine"];
export type Place = components["schemas"]["AlternativeSeen"];

export const NOTHING_WISHED: Wishes = { held: [], buy: ["bec", "capacitor", "filter"], max_g: null, school: {}, turned_down: [] };

export function useLayouts(wishes: Wishes | null) {
  const { view } = usePlanState();
  return useQuery({
    queryKey: ["layouts", view.id, view.revision, wishes],
    enabled: wishes !== null,
    queryFn: ({ signal }) =>
      call(client.POST("/api/plans/{plan_id}/layouts", { params: { path: { plan_id: view.id } }, body: wishes ?? NOTHING_WISHED, signal })),
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
}

export function useProgress(running: boolean) {
  const { view } = usePlanState();
  return useQuery({
    queryKey: ["layouts-progress", view.id],
    enabled: running,
    refetchInterval: 400,
    queryFn: ({ signal }) => call(client.GET("/api/plans/{plan_id}/layouts/progress", { params: { path: { plan_id: view.id } }, signal })),
  });
}

export function useSchools() {
  const { view } = usePlanState();
  return useQuery({
    queryKey: ["schools-of-layouts"],
    queryFn: ({ signal }) => call(client.GET("/api/plans/{plan_id}/layouts/schools", { params: { path: { plan_id: view.id } }, signal })),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export function usePlaces(device: string | null) {
  const { view } = usePlanState();
  return useQuery({
    queryKey: ["layout-places", view.id, view.revision, device],
    enabled: device !== null,
    queryFn: ({ signal }) =>
      call(client.POST("/api/plans/{plan_id}/layouts/places", { params: { path: { plan_id: view.id } }, body: { device: device ?? "" }, signal })),
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
}

export function useMake() {
  const { view } = usePlanState();
  return (wishes: Wishes, number: number, name: string) =>
    call(client.POST("/api/plans/{plan_id}/layouts/make", { params: { path: { plan_id: view.id } }, body: { ...wishes, number, name } }));
}
