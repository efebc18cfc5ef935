/** Reading a noise review: which condition and device to show first. */
import type { NoiseReview, PlanView } from "@/shared/api/types";
import { WORST } from "@/shared/plan/usePlan";

/** The chosen condition, or the one in which a picture is worst, or a pin nearest to what it stands. */
export function noiseCondition(view: PlanView, review: NoiseReview, condition: string): string {
  if (condition !== WORST) return condition;
  const ids = view.analysis.budget.conditions.map((c) => c.id);
  const size = (id: string) => (review.videos.length > 0 ? Math.max(...review.videos.map((v) => v.total_v[id] ?? 0)) : Math.max(0, ...review.pins.map((p) => (p.total_v[id] ?? 0) / p.tolerated_v)));
  return ids.reduce((best, id) => (size(id) > size(best) ? id : best), ids[0] ?? "");
}

/** A part of the picture first, the noisiest of them; else whatever is nearest to what it stands. */
export function noisyDevice(view: PlanView, review: NoiseReview, condition: string): string | null {
  const kinds = new Map((view.plan.devices ?? []).map((d) => [d.id, d.kind]));
  const ranked = review.pins
    .filter((p) => kinds.get(p.device) !== "motor")
    .map((p) => ({ device: p.device, video: ["camera", "sender", "digital"].includes(kinds.get(p.device) ?? ""), share: (p.total_v[condition] ?? 0) / p.tolerated_v }))
    .sort((a, b) => Number(b.video) - Number(a.video) || b.share - a.share);
  return ranked[0]?.device ?? null;
}
