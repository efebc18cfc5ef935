/** The LED resistor: worst-case supply and LED, rounded up, its watts, and the real band of current. */
import { useMutation } from "@tanstack/react-query";
import { Alert, Button, Input, Select } from "antd";
import { useState } from "react";
import { call, client } from "@/shared/api/client";
import type { PlanView } from "@/shared/api/types";
import { usePlanState } from "@/shared/plan/usePlan";
import { amps, railTitle, si } from "@/shared/ui/format";

const FIELDS = [
  { key: "supplyLow", label: "supply, least V", start: "4.8" },
  { key: "supply", label: "supply, V", start: "5.0" },
  { key: "supplyHigh", label: "supply, most V", start: "5.25" },
  { key: "forwardLow", label: "one LED, least V", start: "2.9" },
  { key: "forward", label: "one LED, V", start: "3.1" },
  { key: "forwardHigh", label: "one LED, most V", start: "3.4" },
  { key: "series", label: "in series", start: "1" },
  { key: "strings", label: "strings", start: "4" },
  { key: "wanted", label: "never above, mA", start: "20" },
] as const;
type Key = (typeof FIELDS)[number]["key"];

/** Least, middle and most volts of a rail over the conditions it is live in. */
function supplyOf(view: PlanView, id: string): Partial<Record<Key, string>> {
  const rail = view.analysis.budget.rails.find((one) => one.id === id);
  const live = Object.values(rail?.states ?? {}).map((state) => state.volts_v).filter((v) => v > 0.5).sort((a, b) => a - b);
  if (live.length === 0) return {};
  const at = (k: number) => (live[k] ?? 0).toFixed(2);
  return { supplyLow: at(0), supply: at(Math.floor(live.length / 2)), supplyHigh: at(live.length - 1) };
}

export function LedSheet() {
  const { view } = usePlanState();
  const [form, setForm] = useState<Record<Key, string>>(() => Object.fromEntries(FIELDS.map((f) => [f.key, f.start])) as Record<Key, string>);
  const [problem, setProblem] = useState<string | null>(null);
  const sized = useMutation({
    mutationFn: (n: Record<Key, number>) =>
      call(
        client.POST("/api/sizing/led", {
          body: { supply_v: [n.supplyLow, n.supply, n.supplyHigh], forward_v: [n.forwardLow, n.forward, n.forwardHigh], series: Math.round(n.series), strings: Math.round(n.strings), wanted_a: n.wanted / 1000 },
        }),
      ),
  });
  const size = () => {
    const numbers = Object.fromEntries(FIELDS.map((f) => [f.key, Number(form[f.key].replace(",", "."))])) as Record<Key, number>;
    const wrong = FIELDS.find((f) => form[f.key].trim() === "" || Number.isNaN(numbers[f.key]));
    setProblem(wrong ? `${wrong.label}: “${form[wrong.key]}” is not a number.` : null);
    if (!wrong) sized.mutate(numbers);
  };
  const found = sized.data?.resistor;
  return (
    <section aria-label="LED resistor">
      <p className="noise-lead">Each string has a resistor of its own. The supply is taken high and the LED low, and the value is rounded up, so that no LED ever gets more than this.</p>
      <label className="led-rail">
        supply of{" "}
        <Select
          size="small"
          aria-label="rail that feeds the LEDs"
          placeholder="a rail of this plan"
          style={{ minWidth: 180 }}
          popupMatchSelectWidth={false}
          options={view.analysis.budget.rails.map((rail) => ({ value: rail.id, label: railTitle(rail.name) }))}
          onChange={(id: string) => setForm({ ...form, ...supplyOf(view, id) })}
        />
      </label>
      <div className="led-form">
        {FIELDS.map((f) => (
          <label key={f.key}>
            {f.label} <Input size="small" value={form[f.key]} onChange={(event) => setForm({ ...form, [f.key]: event.target.value })} onPressEnter={size} />
          </label>
        ))}
      </div>
      <Button type="primary" size="small" onClick={size} loading={sized.isPending}>
        Size the resistor
      </Button>
      {(problem ?? sized.error) && <Alert type="error" title={problem ?? sized.error?.message} />}
      {found && (
        <dl className="led-result">
          <dt>resistor of each string</dt>
          <dd>
            <strong>{si(found.ohm, "Ω")}</strong> (exactly {si(found.exact_ohm, "Ω")}, next in {found.series})
          </dd>
          <dt>size</dt>
          <dd>
            {found.part ? found.part_name : "larger than any resistor of the shelf: use more strings, fewer amps, or a current source"} ({si(found.watts, "W")} at most, run at six tenths)
          </dd>
          <dt>current of a string</dt>
          <dd>
            {amps(found.typical_a)}, {amps(found.least_a)} to {amps(found.most_a)}
          </dd>
          <dt>all {found.strings} strings</dt>
          <dd>{amps(found.total_a)}</dd>
        </dl>
      )}
    </section>
  );
}
