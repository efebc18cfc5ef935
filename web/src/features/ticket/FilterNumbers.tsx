/** What a filter does in the condition its place is noisiest in, and how near it stands to its own bounds. */
import type { Filter, FilterAnswer, Severity } from "@/shared/api/types";
import { elementName } from "@/shared/plan/elements";
import { useNoise } from "@/shared/plan/useNoise";
import { usePlanState } from "@/shared/plan/usePlan";
import { amps, decibels, si, volts } from "@/shared/ui/format";
import { Mark } from "@/shared/ui/marks";

interface Fact {
  label: string;
  text: string;
  /** The rule that judges it. */
  code?: string;
}

export function FilterNumbers({ filter }: { filter: Filter }) {
  const { view } = usePlanState();
  const noise = useNoise(view);
  const answer = noise.data?.filters.find((one) => one.filter === filter.id);
  const own = (noise.data?.findings ?? []).filter((one) => one.elements[0] === filter.id);
  const judged = new Map(own.map((one): [string, Severity] => [one.code, one.severity]));
  if (filter.fitted === false) return <p className="muted">Claimed, not fitted: no number counts on it.</p>;
  if (!answer) return <p className="muted">{noise.isFetching ? "Working out what it does…" : "It does nothing yet."}</p>;
  return (
    <>
      <p className="muted">In “{elementName(view, answer.condition)}”, where there is most to take off. Old and cold, unless it says new.</p>
      <dl className="facts">
        {facts(filter, answer).map((fact) => (
          <div key={fact.label}>
            <dt>{fact.label}</dt>
            <dd>
              {fact.code && judged.has(fact.code) && <Mark kind={judged.get(fact.code) ?? "caution"} />} {fact.text}
            </dd>
          </div>
        ))}
      </dl>
    </>
  );
}

function facts(filter: Filter, answer: FilterAnswer): Fact[] {
  const found: Fact[] = [
    { label: "ripple there", text: `${volts(answer.with_v)}, new and warm ${volts(answer.new_v)}, without it ${volts(answer.without_v)}` },
    { label: "loudest line", text: `${answer.loudest}, ${si(answer.loudest_hz, "Hz")}: ${decibels(-answer.loudest_db)}`, code: "noise.wrong_side" },
    { label: "adds at most", text: answer.peak_db > 0.5 ? `${decibels(answer.peak_db)} at ${si(answer.peak_hz, "Hz")}` : "nothing", code: "noise.undamped" },
  ];
  if (answer.left_f && filter.kind !== "ferrite") {
    found.push({ label: "capacitance left", text: `${si(answer.left_f, "F")} of ${si(filter.farad * filter.count, "F")}` });
    found.push({
      label: "volts on it",
      text: `${volts(answer.bias_v)}, for long at most ${volts(answer.allowed_v)} of ${filter.rated_v} V printed`,
      code: "noise.capacitor_volts",
    });
    found.push({
      label: "ripple current, each",
      text: filter.ripple_a ? `${amps(answer.ripple_a)} of ${amps(filter.ripple_a)}` : `${amps(answer.ripple_a)}, its limit is not said`,
      code: "noise.capacitor_ripple",
    });
  }
  if (answer.left_h && filter.kind === "lc")
    found.push({ label: "inductance left", text: `${si(answer.left_h, "H")} of ${si(filter.henry, "H")} at ${amps(answer.feed_a)}` });
  if (filter.kind !== "capacitor") {
    found.push({ label: "current through it", text: `${amps(answer.feed_a)} of ${amps(filter.saturation_a)}`, code: "noise.saturation" });
    const warms = answer.rise_k === null ? "" : `, warms by ${si(answer.rise_k, "K")} of ${answer.sheet_rise_k} K in open air`;
    found.push({ label: "drop and heat", text: `${volts(answer.drop_v)}, ${si(answer.drop_v * answer.feed_a, "W")}${warms}`, code: "noise.coil_heat" });
  }
  if (answer.corner_hz) found.push({ label: "corner", text: si(answer.corner_hz, "Hz") });
  if (answer.out_ohm && answer.load_ohm) {
    found.push({ label: "output against load", text: `${si(answer.out_ohm, "Ω")} at its peak, the load ${si(answer.load_ohm, "Ω")}`, code: "noise.unstable" });
  }
  return found;
}
