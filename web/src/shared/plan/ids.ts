/** Ids for what a screen adds to a plan. */
import type { PlanDocument } from "@/shared/api/types";

/** The wanted id, or the first numbered one that is free. */
export function freshId(plan: PlanDocument, wanted: string): string {
  const taken = new Set<string>(["pack"]);
  const groups = [plan.boards, plan.rails, plan.supplies ?? [], plan.devices ?? [], plan.inlets ?? [], plan.signals ?? [], plan.filters ?? [], plan.noises ?? [], plan.conditions ?? []];
  for (const one of groups.flat()) {
    taken.add(one.id);
    for (const inner of [...("pads" in one ? (one.pads ?? []) : []), ...("returns" in one ? (one.returns ?? []) : []), ...("pins" in one ? (one.pins ?? []) : [])]) taken.add(inner.id);
  }
  const stem = wanted.slice(0, 58);
  if (!taken.has(stem)) return stem;
  let number = 2;
  while (taken.has(`${stem}-${number}`)) number += 1;
  return `${stem}-${number}`;
}
