/** Symptoms of a plan, what may be behind one, and the story that is kept of it. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { call, client } from "@/shared/api/client";
import type { components } from "@/shared/api/schema";
import { usePlanState } from "@/shared/plan/usePlan";

export type Symptom = components["schemas"]["SymptomSeen"];
export type Diagnosis = components["schemas"]["DiagnosisSeen"];
export type Cause = components["schemas"]["CauseSeen"];
export type NextTry = components["schemas"]["TrySeen"];
export type Story = components["schemas"]["StoryView"];
export type Complaint = components["schemas"]["StoryBody"];
export type Answer = components["schemas"]["AnswerBody"];

export function useSymptoms() {
  const { view } = usePlanState();
  return useQuery({
    queryKey: ["symptoms", view.id, view.revision],
    queryFn: ({ signal }) => call(client.GET("/api/plans/{plan_id}/diagnosis/symptoms", { params: { path: { plan_id: view.id } }, signal })),
    placeholderData: (before) => before,
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export function useLookInto(asked: Complaint | null) {
  const { view } = usePlanState();
  return useQuery({
    queryKey: ["diagnosis", view.id, view.revision, asked],
    enabled: asked !== null,
    queryFn: ({ signal }) => {
      const { symptom = "", where, since, evidence } = asked ?? { symptom: "" };
      return call(client.POST("/api/plans/{plan_id}/diagnosis", { params: { path: { plan_id: view.id } }, body: { symptom, where, since, evidence }, signal }));
    },
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
}

const of = (plan: number, entry: number) => ["story", plan, entry];

export function useStory(entry: number | null) {
  const { view } = usePlanState();
  return useQuery({
    queryKey: [...of(view.id, entry ?? 0), view.revision],
    enabled: entry !== null,
    queryFn: ({ signal }) =>
      call(client.GET("/api/plans/{plan_id}/diagnosis/stories/{entry}", { params: { path: { plan_id: view.id, entry: entry ?? 0 } }, signal })),
    placeholderData: (before) => before,
  });
}

export function useStoryActions() {
  const { view } = usePlanState();
  const queries = useQueryClient();
  const path = { plan_id: view.id };
  const kept = async (story: Story) => {
    queries.setQueryData([...of(view.id, story.entry), view.revision], story);
    await queries.invalidateQueries({ queryKey: ["log", view.id] });
    return story;
  };
  const at = (entry: number) => ({ params: { path: { ...path, entry } } });
  return {
    begin: async (body: Complaint) => {
      const made = await call(client.POST("/api/plans/{plan_id}/diagnosis/stories", { params: { path }, body }));
      await queries.invalidateQueries({ queryKey: ["log", view.id] });
      return made.id;
    },
    answer: async (entry: number, body: Answer) =>
      kept(await call(client.POST("/api/plans/{plan_id}/diagnosis/stories/{entry}/answer", { ...at(entry), body }))),
    back: async (entry: number, tried: string) =>
      kept(await call(client.POST("/api/plans/{plan_id}/diagnosis/stories/{entry}/back", { ...at(entry), body: { tried } }))),
    settle: async (entry: number, how: string, gone: boolean | null) =>
      kept(await call(client.POST("/api/plans/{plan_id}/diagnosis/stories/{entry}/settle", { ...at(entry), body: { how, gone } }))),
    anew: async (entry: number) => kept(await call(client.POST("/api/plans/{plan_id}/diagnosis/stories/{entry}/anew", at(entry)))),
  };
}
