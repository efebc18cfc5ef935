/** Pins that can be an end of a signal. */
import { SIGNAL_ENDS } from "@/shared/api/constants";
import type { PlanDocument } from "@/shared/api/types";

export type Side = "from" | "to";
const NO_SIGNAL = ["power-in", "power-out", "ground"];

/** Pins that can drive a kind of signal, or read it, and every owner by itself; `now` is listed whatever it is. */
export function signalEnds(plan: PlanDocument, kind: string, side: Side, now?: string): { value: string; label: string }[] {
  const wanted = SIGNAL_ENDS[kind]?.[side];
  const can = (role: string) => !NO_SIGNAL.includes(role) && (!wanted || role === "other" || wanted.includes(role));
  return [...plan.boards, ...(plan.devices ?? [])].flatMap((owner) => [
    ...(owner.pins ?? []).filter((p) => p.id === now || can(p.role ?? "other")).map((p) => ({ value: p.id, label: `${owner.name} ${p.label}` })),
    { value: owner.id, label: `${owner.name}, pin not said` },
  ]);
}
