/** The plan on screen and the ways to change it; every change starts from the revision the screen shows. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useRef, useState } from "react";
import { ApiError, call, client } from "@/shared/api/client";
import type { Edit, Placing, PlanView, PreviewView } from "@/shared/api/types";

export interface PlanStore {
  view: PlanView | undefined;
  loadError: ApiError | null;
  edit: (edits: Edit[]) => Promise<PlanView>;
  place: (what: Placing) => Promise<PlanView>;
  preview: (edits: Edit[], condition?: string) => Promise<PreviewView>;
  step: (way: "undo" | "redo") => Promise<void>;
  returnTo: (revision: number) => Promise<void>;
  busy: boolean;
  error: ApiError | null;
  clearError: () => void;
  reload: () => void;
  /** What another tab did to the plan since this one loaded it. */
  elsewhere: string | null;
}

const NO_SUCH_PLAN = new ApiError(404, {
  kind: "missing",
  what: "This plan does not exist.",
  where: "",
  remedy: "Choose one from the list of builds.",
  problems: [],
  current_revision: null,
  steps: [],
});

export function usePlanStore(planId: number): PlanStore {
  const queries = useQueryClient();
  const isId = Number.isSafeInteger(planId) && planId > 0;
  const found = useQuery({
    queryKey: ["plan", planId],
    queryFn: () => call(client.GET("/api/plans/{plan_id}", { params: { path: { plan_id: planId } } })),
    refetchOnWindowFocus: false,
    enabled: isId,
  });
  // Another tab may have moved the plan; asking for its head alone costs next to nothing.
  const head = useQuery({
    queryKey: ["head", planId],
    queryFn: () => call(client.GET("/api/plans/{plan_id}/head", { params: { path: { plan_id: planId } } })),
    refetchInterval: 4000,
    enabled: found.data !== undefined,
  });
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<ApiError | null>(null);
  const queue = useRef<Promise<unknown>>(Promise.resolve());

  // Steps go one after the other, each from the revision the one before it left.
  const run = useCallback(
    <T>(step: (revision: number) => Promise<T>, keep: (result: T) => void, quiet: boolean): Promise<T> => {
      const next = queue.current.then(async () => {
        const now = queries.getQueryData<PlanView>(["plan", planId]);
        if (!now) throw new Error("no plan is loaded");
        if (!quiet) setBusy(true);
        try {
          const result = await step(now.revision);
          keep(result);
          setError(null);
          return result;
        } catch (caught) {
          if (caught instanceof ApiError && (!quiet || caught.stale)) setError(caught);
          throw caught;
        } finally {
          if (!quiet) setBusy(false);
        }
      });
      queue.current = next.catch(() => undefined);
      return next;
    },
    [planId, queries],
  );

  const keep = useCallback(
    (view: PlanView) => {
      void queries.cancelQueries({ queryKey: ["plan", planId] });
      queries.setQueryData(["head", planId], { revision: view.revision, summary: view.summary });
      queries.setQueryData(["plan", planId], view);
      void queries.invalidateQueries({ queryKey: ["builds"] });
      void queries.invalidateQueries({ queryKey: ["history", planId] });
      void queries.invalidateQueries({ queryKey: ["working", planId] });
    },
    [planId, queries],
  );

  const edit = useCallback(
    (edits: Edit[]) =>
      run((revision) => call(client.POST("/api/plans/{plan_id}/edits", { params: { path: { plan_id: planId } }, body: { revision, edits } })), keep, false),
    [keep, planId, run],
  );
  const place = useCallback(
    (what: Placing) =>
      run((revision) => call(client.POST("/api/shelf/place/{plan_id}", { params: { path: { plan_id: planId } }, body: { revision, ...what } })), keep, false),
    [keep, planId, run],
  );
  const preview = useCallback(
    (edits: Edit[], condition?: string) =>
      run(
        (revision) =>
          call(client.POST("/api/plans/{plan_id}/preview", { params: { path: { plan_id: planId } }, body: { revision, edits, condition: condition ?? null } })),
        () => undefined,
        true,
      ),
    [planId, run],
  );
  const step = useCallback(
    async (way: "undo" | "redo") => {
      const params = { path: { plan_id: planId } };
      const take = (revision: number) =>
        way === "undo"
          ? call(client.POST("/api/plans/{plan_id}/undo", { params, body: { revision } }))
          : call(client.POST("/api/plans/{plan_id}/redo", { params, body: { revision } }));
      await run(take, keep, false).catch(() => undefined);
    },
    [keep, planId, run],
  );
  const returnTo = useCallback(
    async (to: number) => {
      const params = { path: { plan_id: planId } };
      await run((revision) => call(client.POST("/api/plans/{plan_id}/return", { params, body: { revision, to } })), keep, false).catch(() => undefined);
    },
    [keep, planId, run],
  );
  const clearError = useCallback(() => setError(null), []);
  const reload = useCallback(() => {
    setError(null);
    // In the queue: a step taken before the plan is here would start from the old one and be refused again.
    queue.current = queue.current.then(() => queries.invalidateQueries({ queryKey: ["plan", planId] }));
    void queries.invalidateQueries({ queryKey: ["history", planId] });
  }, [planId, queries]);
  // A head that was asked for before the plan came tells nothing new.
  const moved = found.data && head.data && head.dataUpdatedAt >= found.dataUpdatedAt && head.data.revision !== found.data.revision ? head.data : null;
  return {
    view: found.data,
    loadError: isId ? (found.data ? null : found.error instanceof ApiError ? found.error : null) : NO_SUCH_PLAN,
    edit,
    place,
    preview,
    step,
    returnTo,
    busy,
    error,
    clearError,
    reload,
    elsewhere: moved && !busy && !error ? moved.summary : null,
  };
}
