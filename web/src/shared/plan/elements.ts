/** Names of what a plan is made of, and what an end of a signal belongs to. */
import { CHOICES } from "@/shared/api/constants";
import type { PlanView, Supply } from "@/shared/api/types";

/** An element's name as it is stored, to be changed; what it is called on screen may have its board in front. */
export function storedName(view: PlanView, id: string): string {
  if (id === "pack") return view.plan.pack.name ?? "Pack";
  return named(view.plan).find((one) => one.id === id)?.name ?? id;
}

function named(plan: PlanView["plan"]) {
  return [
    ...plan.boards,
    ...plan.rails,
    ...(plan.supplies ?? []),
    ...(plan.devices ?? []),
    ...(plan.inlets ?? []),
    ...(plan.conditions ?? []),
    ...(plan.signals ?? []),
    ...(plan.filters ?? []),
    ...(plan.clamps ?? []),
    ...(plan.noises ?? []),
  ];
}

export function elementName(view: PlanView, id: string): string {
  if (id === "pack") return view.plan.pack.name ?? "Pack";
  const plan = view.plan;
  const found = named(plan).find((one) => one.id === id);
  if (found) return titled(view, found);
  for (const rail of plan.rails) for (const pad of rail.pads ?? []) if (pad.id === id) return `Pad ${pad.label}`;
  for (const owner of owners(view)) {
    for (const pin of owner.pins ?? []) if (pin.id === id) return `${owner.name} ${pin.label}`;
    for (const wire of owner.returns ?? []) if (wire.id === id) return `Ground of ${owner.name}`;
  }
  return view.analysis.budget.conditions.find((one) => one.id === id)?.name ?? id;
}

/** A rail or supply whose name is not the only one of its kind has its board's in front. */
function titled(view: PlanView, one: { id: string; name: string }): string {
  for (const kind of [view.plan.rails, view.plan.supplies ?? []]) {
    const mine = kind.find((other) => other.id === one.id);
    if (!mine || kind.filter((other) => other.name === one.name).length < 2) continue;
    const board = [...view.plan.boards, ...(view.plan.devices ?? [])].find((other) => other.id === mine.board)?.name ?? "";
    return one.name.includes(board) ? one.name : `${board}, ${one.name}`;
  }
  return one.name;
}

function owners(view: PlanView) {
  return [...view.plan.boards, ...(view.plan.devices ?? [])];
}

/** The board or device a signal's end belongs to; an end is a pin, or the owner itself. */
export function ownerOfEnd(view: PlanView, end: string): string {
  return owners(view).find((one) => one.id === end || (one.pins ?? []).some((p) => p.id === end))?.id ?? end;
}

/** “Flight controller TX2”, or the owner with its pin not said. */
export function endName(view: PlanView, end: string): string {
  return owners(view).some((one) => one.id === end) ? `${elementName(view, end)}, pin not said` : elementName(view, end);
}

export type Regulator = Extract<Supply, { set_v: number }>;

export function isRegulator(supply: Supply): supply is Regulator {
  return (CHOICES["Regulator.kind"] as readonly string[]).includes(supply.kind);
}
