/** Rails that a second regulator could stand beside, and the way to where it is chosen. */
import type { PlanDocument } from "@/shared/api/types";

/** Rails with volts of their own that some regulator feeds. */
export function regulatedRails(plan: PlanDocument): PlanDocument["rails"] {
  const fed = new Set((plan.supplies ?? []).filter((one) => "set_v" in one).map((one) => one.output));
  return plan.rails.filter((rail) => rail.nominal_v && fed.has(rail.id));
}

/** The rail's ticket with the choice of a second regulator open; what else is looked at stays. */
export function besideLink(plan: number, rail: string, search: string): string {
  const params = new URLSearchParams(search);
  params.delete("sheet");
  params.set("s", rail);
  params.set("beside", rail);
  return `/plans/${plan}/rails?${params.toString()}`;
}
