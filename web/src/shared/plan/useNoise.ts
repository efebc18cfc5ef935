/** The noise of the plan at its head: asked for beside the plan, since it takes longer than an edit may. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { call, client } from "@/shared/api/client";
import type { NoiseReview, PlanView } from "@/shared/api/types";

export function useNoise(view: PlanView) {
  return useQuery<NoiseReview>({
    queryKey: ["noise", view.id, view.revision],
    queryFn: ({ signal }) => call(client.GET("/api/plans/{plan_id}/noise", { params: { path: { plan_id: view.id } }, signal })),
    placeholderData: keepPreviousData,
    staleTime: Number.POSITIVE_INFINITY,
  });
}
