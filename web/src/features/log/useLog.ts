/** The log of the build: read, added to, corrected; a flight read and looked at. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { call, client } from "@/shared/api/client";
import type { components } from "@/shared/api/schema";
import { usePlanState } from "@/shared/plan/usePlan";

export type LogLine = components["schemas"]["LogLineView"];
export type EntryBody = components["schemas"]["EntryBody"];
export type EntryKind = EntryBody["kind"];
export type TableView = components["schemas"]["TableView"];
export type Confirmed = components["schemas"]["Confirmed"];
export type FlightView = components["schemas"]["FlightView"];

export function useLog() {
  const { view } = usePlanState();
  return useQuery({
    queryKey: ["log", view.id, view.revision],
    queryFn: () => call(client.GET("/api/plans/{plan_id}/log", { params: { path: { plan_id: view.id } } })),
    placeholderData: (before) => before,
  });
}

export function useLogActions() {
  const { view } = usePlanState();
  const queries = useQueryClient();
  const path = { plan_id: view.id };
  const again = () => queries.invalidateQueries({ queryKey: ["log", view.id] });
  return {
    add: async (body: EntryBody) => {
      const made = await call(client.POST("/api/plans/{plan_id}/log", { params: { path }, body }));
      await again();
      return made.id;
    },
    correct: async (entry: number, body: EntryBody) => {
      await call(client.POST("/api/plans/{plan_id}/log/{entry}/correct", { params: { path: { ...path, entry } }, body }));
      await again();
    },
    picture: async (entry: number, file: File) => {
      const base64 = await inBase64(file);
      await call(client.POST("/api/plans/{plan_id}/log/{entry}/picture", { params: { path: { ...path, entry } }, body: { base64 } }));
      await again();
    },
    look: (text: string) => call(client.POST("/api/plans/{plan_id}/log/flights/look", { params: { path }, body: { text } })),
    keep: async (name: string, text: string, columns: Confirmed[]) => {
      const made = await call(client.POST("/api/plans/{plan_id}/log/flights", { params: { path }, body: { name, text, columns, note: "", who: "" } }));
      await again();
      return made.id;
    },
    back: async (text: string) => {
      const found = await call(client.POST("/api/plans/{plan_id}/log/back", { params: { path }, body: { text } }));
      await again();
      return found.made;
    },
  };
}

async function inBase64(file: File): Promise<string> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  let text = "";
  for (let at = 0; at < bytes.length; at += 0x8000) text += String.fromCharCode(...bytes.subarray(at, at + 0x8000));
  return btoa(text);
}
