/** The round of training that is going on in this plan, if one is; kept in the address, so that a reload comes back to it. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { useSearchParams } from "react-router";
import { ApiError, call, client } from "@/shared/api/client";
import { usePlanState } from "@/shared/plan/usePlan";
import type { Round } from "./useBench";

export function useTraining() {
  const { view } = usePlanState();
  const queries = useQueryClient();
  const [search, setSearch] = useSearchParams();
  const [problem, setProblem] = useState<string | null>(null);
  const id = Number(search.get("training")) || null;
  const path = { plan_id: view.id };
  const found = useQuery({
    queryKey: ["training", view.id, id],
    enabled: id !== null,
    queryFn: () => call(client.GET("/api/plans/{plan_id}/bench/training/{round_id}", { params: { path: { ...path, round_id: id ?? 0 } } })),
  });
  const put = useCallback(
    (round: number | null) => {
      const next = new URLSearchParams(window.location.search);
      if (round === null) next.delete("training");
      else next.set("training", String(round));
      setSearch(next, { replace: true });
    },
    [setSearch],
  );
  const held = async (work: Promise<Round>) => {
    try {
      const round = await work;
      queries.setQueryData(["training", view.id, round.id], round);
      put(round.id);
      setProblem(null);
    } catch (caught) {
      setProblem(caught instanceof ApiError ? caught.message : String(caught));
    }
  };
  return {
    id,
    round: id === null ? null : (found.data ?? null),
    problem: problem ?? found.error?.message ?? null,
    begin: (level: "one" | "masked" | "two", who: string) =>
      held(call(client.POST("/api/plans/{plan_id}/bench/training", { params: { path }, body: { level, who } }))),
    end: () => held(call(client.POST("/api/plans/{plan_id}/bench/training/{round_id}/end", { params: { path: { ...path, round_id: id ?? 0 } } }))),
    refresh: () => queries.invalidateQueries({ queryKey: ["training", view.id] }),
    leave: () => put(null),
  };
}
