/** Reading the returns of an analysis: which condition is shown, how a signal stands against its margin. */
import type { PlanView, SignalAnswer } from "@/shared/api/types";
import { WORST } from "@/shared/plan/usePlan";
import type { MarkKind } from "@/shared/ui/marks";

/** The chosen condition, or the one in which a signal is worst off, or a ground highest. */
export function groundCondition(view: PlanView, condition: string): string {
  if (condition !== WORST) return condition;
  const ids = view.analysis.budget.conditions.map((c) => c.id);
  const { signals, grounds } = view.analysis.returns;
  const size = (id: string) => Math.max(0, ...signals.map((s) => share(s, id, true)), ...(signals.length === 0 ? grounds.map((g) => g.states[id]?.volts_v ?? 0) : []));
  return ids.reduce((best, id) => (size(id) > size(best) ? id : best), ids[0] ?? "");
}

/** What lands on a signal as a share of its margin; video is judged by its steady shift, logic with one edge on top. */
export function share(signal: SignalAnswer, condition: string, video: boolean): number {
  const state = signal.states[condition];
  if (!state || signal.margin_v <= 0) return 0;
  return (Math.abs(state.shift_v) + (video ? 0 : state.step_v)) / signal.margin_v;
}

export function shareMark(fraction: number, video: boolean): MarkKind {
  if (fraction > (video ? 4 : 1)) return "fault";
  return fraction > (video ? 1 : 0.5) ? "caution" : "ok";
}
