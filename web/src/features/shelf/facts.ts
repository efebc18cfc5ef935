/** A part in a line: what a builder chooses by. */
import type { components } from "@/shared/api/schema";
import { drawText } from "@/shared/ui/format";

export type PartView = components["schemas"]["PartView"];
export type Part = PartView["part"];

export function facts(part: Part): string {
  if (part.device) {
    const d = part.device;
    const motor = (d.throttle ?? []).at(-1);
    const draw = motor ? `${motor.amps} A at full throttle` : `${drawText(d.draws.typical)} typical, ${drawText(d.draws.peak)} peak`;
    return `${d.min_v}–${d.max_v} V, ${draw}`;
  }
  if (part.bec) return `${part.bec.kind} to ${part.bec.set_v} V, ${part.bec.rating_a} A, up to ${part.bec.input_max_v} V in`;
  if (part.board) {
    const regulators = (part.board.supplies ?? []).flatMap((s) => ("set_v" in s ? [`${s.set_v} V ${s.rating_a} A`] : []));
    return regulators.length > 0 ? regulators.join(", ") : "no regulator";
  }
  if (part.pack)
    return `${part.pack.series}S${part.pack.parallel}P ${part.pack.chemistry}, ${Number(((part.pack.capacity_ah ?? 0) * (part.pack.parallel ?? 1)).toPrecision(4))} Ah`;
  return Object.entries(part[part.kind] ?? {})
    .filter(([, value]) => value !== null)
    .map(([name, value]) => `${name.replaceAll("_", " ")} ${value}`)
    .join(", ");
}
