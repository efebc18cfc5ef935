/** What moving a device to a rail would do, in the words both tracks need. */
import type { PlanView, PreviewView } from "@/shared/api/types";
import { ApiError } from "@/shared/api/client";
import { amps, railTitle } from "@/shared/ui/format";
import { WORST } from "./usePlan";

export interface Tried {
  rail: string;
  /** Why it cannot be; the drop is refused then. */
  refused: string | null;
  /** Spare amps now and then, by rail id: the old track's and the new one's. */
  spare: Record<string, { now: number; then: number }>;
  words: string;
}

/** The condition with the least spare amps on either rail, when the worst is shown. */
function conditionFor(view: PlanView, condition: string, rail: string): string {
  if (condition !== WORST) return condition;
  const states = view.analysis.budget.rails.find((r) => r.id === rail)?.states ?? {};
  const ids = Object.keys(states);
  return ids.reduce((best, id) => ((states[id]?.spare_a ?? 0) < (states[best]?.spare_a ?? 0) ? id : best), ids[0] ?? "");
}

export function readMove(view: PlanView, after: PreviewView, device: string, rail: string, condition: string): Tried {
  const found = after.analysis.budget.devices.find((d) => d.id === device);
  // The rule, not the conditions alone: it counts the full pack whether or not a condition has one.
  const over = after.analysis.findings.find((f) => f.code === "window.over" && f.elements.includes(device))?.numbers[0]?.value;
  const old = view.analysis.budget.devices.find((d) => d.id === device)?.rail;
  const spare: Tried["spare"] = {};
  for (const id of [old, rail]) {
    if (!id) continue;
    const at = conditionFor(view, condition, id);
    const now = view.analysis.budget.rails.find((r) => r.id === id)?.states[at];
    const then = after.analysis.budget.rails.find((r) => r.id === id)?.states[at];
    if (now && then) spare[id] = { now: now.spare_a, then: then.spare_a };
  }
  const words = [old, rail]
    .filter((id): id is string => Boolean(id && spare[id]))
    .map((id) => `${railTitle(view.plan.rails.find((r) => r.id === id)?.name ?? id)} spare ${amps(spare[id]?.now)} → ${amps(spare[id]?.then)}`)
    .join(" · ");
  const name = found?.name ?? device;
  return { rail, refused: over && found ? `Refused: ${name} would get ${over.toFixed(1)} V, it takes ${found.max_v} V` : null, spare, words };
}

export function refusedMove(rail: string, caught: unknown): Tried {
  return { rail, refused: `Refused: ${caught instanceof ApiError ? caught.body.what : String(caught)}`, spare: {}, words: "" };
}
