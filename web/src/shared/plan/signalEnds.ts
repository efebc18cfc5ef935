/** Pins that can be an end of a signal. */
import { SIGNAL_ENDS } from "@/shared/api/constants";
import type { PlanDocument } from "@/shared/api/types";

export type Side = "from" | "to";
const NO_SIGNAL = ["power-in", "power-out", "ground"];

/** The role of a pin; none of what is no pin, or of one nobody said. */
function roleOf(plan: PlanDocument, end: string | null): string | undefined {
  const pin = [...plan.boards, ...(plan.devices ?? [])].flatMap((owner) => owner.pins ?? []).find((one) => one.id === end);
  return pin?.role === "other" ? undefined : pin?.role;
}

/** The kind of signal two pins make; of one where the other is not chosen yet; none where they say nothing. */
export function kindOf(plan: PlanDocument, source: string | null, sink: string | null): string | undefined {
  const from = roleOf(plan, source);
  const to = roleOf(plan, sink);
  if (!from && !to) return undefined;
  return Object.keys(SIGNAL_ENDS).find((kind) => {
    const ends = SIGNAL_ENDS[kind];
    return ends && (!from || ends.from.includes(from)) && (!to || ends.to.includes(to));
  });
}

/** Pins that can drive a kind of signal, or read it, and every owner by itself; `now` is listed whatever it is. */
export function signalEnds(plan: PlanDocument, kind: string, side: Side, now?: string): { value: string; label: string }[] {
  const wanted = SIGNAL_ENDS[kind]?.[side];
  const can = (role: string) => !NO_SIGNAL.includes(role) && (!wanted || role === "other" || wanted.includes(role));
  return [...plan.boards, ...(plan.devices ?? [])].flatMap((owner) => [
    ...(owner.pins ?? []).filter((p) => p.id === now || can(p.role ?? "other")).map((p) => ({ value: p.id, label: `${owner.name} ${p.label}` })),
    { value: owner.id, label: `${owner.name}, pin not said` },
  ]);
}
