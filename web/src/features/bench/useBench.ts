/** The bench's list, what was done of it, and every way to add to the record. Nothing here judges: the server does. */
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ApiError, call, client } from "@/shared/api/client";
import type { components } from "@/shared/api/schema";
import { usePlanState } from "@/shared/plan/usePlan";

export type Bench = components["schemas"]["BenchView"];
export type BenchStep = Bench["steps"][number];
export type Entry = components["schemas"]["EntryView"];
export type Place = components["schemas"]["ProbeAt"];
export type SearchView = components["schemas"]["Search"];
export type NextTrial = components["schemas"]["NextTrial"];
export type Effort = components["schemas"]["Effort"];
export type Rack = components["schemas"]["RackView"];
export type Round = components["schemas"]["TrainingView"];
export type Judged = components["schemas"]["JudgedView"];

/** Done and standing: it need not be looked at again. */
export const settled = (entry: Entry | undefined) => entry !== undefined && !entry.again && entry.outcome !== "failed";

/** What was read with its unit, where it has none of its own. */
export const readAs = (entry: Entry | undefined) => (entry?.text ? (/^[\d.,+-]+[kM]?$/.test(entry.text) ? `${entry.text} ${entry.unit}` : entry.text) : "");

const WHO = "yard-bench-who";

/** Who signs what is written down; kept in the browser. */
export function useWho() {
  const [who, setWho] = useState(() => window.localStorage.getItem(WHO) ?? "");
  const keep = (name: string) => {
    window.localStorage.setItem(WHO, name);
    setWho(name);
  };
  return { who, setWho: keep };
}

export function useBench(training: number | null) {
  const { view } = usePlanState();
  return useQuery({
    queryKey: ["bench", view.id, view.revision, training],
    placeholderData: keepPreviousData,
    queryFn: () => call(client.GET("/api/plans/{plan_id}/bench", { params: { path: { plan_id: view.id }, query: training ? { training } : {} } })),
  });
}

export function useEffort() {
  const { view } = usePlanState();
  return useQuery({
    queryKey: ["bench-effort", view.id, view.revision],
    placeholderData: keepPreviousData,
    queryFn: () => call(client.GET("/api/plans/{plan_id}/bench/effort", { params: { path: { plan_id: view.id } } })),
  });
}

export function useSearch(step: string | null, supply: boolean, training: number | null, mark: number) {
  const { view } = usePlanState();
  return useQuery({
    queryKey: ["bench-search", view.id, view.revision, step, supply, training, mark],
    enabled: step !== null,
    placeholderData: (before, query) => (query?.queryKey[3] === step ? before : undefined),
    queryFn: () =>
      call(
        client.GET("/api/plans/{plan_id}/bench/search", {
          params: { path: { plan_id: view.id }, query: { step: step ?? "", supply, ...(training ? { training } : {}) } },
        }),
      ),
  });
}

/** What is read and said at the bench, each with its answer; a failure is said and nothing typed is lost. */
export function useRecord(training: number | null, who: string) {
  const { view } = usePlanState();
  const queries = useQueryClient();
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  /** `after` runs before the buttons come back, so that a second click cannot mean the step that is just done. */
  const send = async (work: Promise<Judged>, after?: (answer: Judged) => void): Promise<Judged | null> => {
    setBusy(true);
    try {
      const answer = await work;
      setProblem(null);
      await queries.invalidateQueries({ queryKey: ["bench", view.id] });
      after?.(answer);
      return answer;
    } catch (caught) {
      setProblem(caught instanceof ApiError ? caught.message : String(caught));
      return null;
    } finally {
      setBusy(false);
    }
  };
  const path = { params: { path: { plan_id: view.id } } };
  const rest = { who, training };
  return {
    busy,
    problem,
    clear: () => setProblem(null),
    reading: (step: string, text: string, instrument: string, after?: (answer: Judged) => void) =>
      send(call(client.POST("/api/plans/{plan_id}/bench/reading", { ...path, body: { step, text, instrument, ...rest } })), after),
    trial: (step: string, trial: string, text: string, instrument: string) =>
      send(call(client.POST("/api/plans/{plan_id}/bench/trial", { ...path, body: { step, trial, text, instrument, ...rest } }))),
    look: (step: string, outcome: "passed" | "failed" | "skipped", note: string, after?: (answer: Judged) => void) =>
      send(call(client.POST("/api/plans/{plan_id}/bench/look", { ...path, body: { step, outcome, note, ...rest } })), after),
    repair: (fault: string, note: string) => send(call(client.POST("/api/plans/{plan_id}/bench/repair", { ...path, body: { fault, note, ...rest } }))),
  };
}

export type Recording = ReturnType<typeof useRecord>;
