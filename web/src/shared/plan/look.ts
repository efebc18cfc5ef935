/** Reading an analysis: the condition that counts for an element, and its worst mark. */
import type { Finding, PlanView, RailAnswer, RailState, Severity, SupplyAnswer } from "@/shared/api/types";
import { worst, type MarkKind } from "@/shared/ui/marks";
import { WORST } from "./usePlan";

export function findingsIn(findings: Finding[], condition: string): Finding[] {
  return condition === WORST ? findings : findings.filter((f) => f.conditions.length === 0 || f.conditions.includes(condition));
}

/** How a finding weighs in a condition: it may be worse in one than in another. */
export function severityIn(finding: Finding, condition: string): Severity {
  return finding.by_condition?.[condition] ?? finding.severity;
}

/** The worst of a condition's own findings; of all findings, those of no condition too, in the worst. */
export function conditionMark(findings: Finding[], condition: string): MarkKind {
  const marks = findings.filter((f) => condition === WORST || f.conditions.includes(condition)).map((f) => severityIn(f, condition));
  return worst(marks.filter((mark) => mark !== "note"));
}

/** Marks by element over the findings of a condition. */
export function elementMarks(findings: Finding[], condition: string): Map<string, MarkKind> {
  const marks = new Map<string, MarkKind>();
  for (const finding of findingsIn(findings, condition)) {
    const severity = severityIn(finding, condition);
    if (severity === "note") continue;
    for (const element of finding.elements) marks.set(element, worst([marks.get(element) ?? "ok", severity]));
  }
  return marks;
}

/** The condition a rail is shown in: the chosen one, or the one with the least share of amps to spare. */
export function railCondition(rail: RailAnswer, condition: string): string {
  if (condition !== WORST) return condition;
  const tightness = (state: RailState) => (state.usable_a > 0 ? state.spare_a / state.usable_a : Number.POSITIVE_INFINITY);
  const entries = Object.entries(rail.states);
  return entries.reduce((best, entry) => (tightness(entry[1]) < tightness(best[1]) ? entry : best))[0];
}

export function supplyCondition(supply: SupplyAnswer, condition: string): string {
  if (condition !== WORST) return condition;
  const entries = Object.entries(supply.states);
  return entries.reduce((best, entry) => (entry[1].out_a > best[1].out_a ? entry : best))[0];
}

export function elementName(view: PlanView, id: string): string {
  if (id === "pack") return view.plan.pack.name ?? "Pack";
  const plan = view.plan;
  const all = [...plan.boards, ...plan.rails, ...(plan.supplies ?? []), ...(plan.devices ?? []), ...(plan.inlets ?? []), ...(plan.conditions ?? []), ...(plan.signals ?? []), ...(plan.filters ?? []), ...(plan.noises ?? [])];
  const found = all.find((one) => one.id === id);
  if (found) return found.name;
  for (const rail of plan.rails) for (const pad of rail.pads ?? []) if (pad.id === id) return `Pad ${pad.label}`;
  for (const owner of owners(view)) {
    for (const pin of owner.pins ?? []) if (pin.id === id) return `${owner.name} ${pin.label}`;
    for (const wire of owner.returns ?? []) if (wire.id === id) return `Ground of ${owner.name}`;
  }
  return id;
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
