/** Lines measured on the bench: each takes the place of the estimate of its kind. */
import { isRegulator } from "@/shared/plan/elements";
import { Button, Input, Select } from "antd";
import { useState } from "react";
import { ApiError } from "@/shared/api/client";
import type { Edit } from "@/shared/api/types";
import { CHOICES } from "@/shared/api/constants";
import { elementName } from "@/shared/plan/elements";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { si } from "@/shared/ui/format";

const KINDS = CHOICES["MeasuredNoise.kind"];
type Kind = (typeof KINDS)[number];

export function MeasuredSheet() {
  const { view } = usePlanState();
  const { edit } = usePlanActions();
  const [element, setElement] = useState<string | null>(null);
  const [kind, setKind] = useState<Kind>("pwm");
  const [hz, setHz] = useState("");
  const [size, setSize] = useState("");
  const [unit, setUnit] = useState<"V" | "A">("V");
  const [problem, setProblem] = useState<string | null>(null);
  const sources = [...(view.plan.devices ?? []), ...(view.plan.supplies ?? []).filter(isRegulator)];
  const run = (edits: Edit[]) =>
    void edit(edits).then(
      () => setProblem(null),
      (caught: unknown) => setProblem(caught instanceof ApiError ? caught.message : String(caught)),
    );
  const add = () => {
    if (!element) return;
    const numbers = [Number(hz.replace(",", ".")), Number(size.replace(",", "."))];
    if (numbers.some((n) => !Number.isFinite(n) || n <= 0)) {
      setProblem("Frequency and amplitude are numbers above zero: hertz, and millivolts or milliamps peak to peak.");
      return;
    }
    run([
      {
        op: "add",
        kind: "noise",
        value: { name: `${elementName(view, element)} ${kind}`, element, kind, hz: numbers[0] ?? 1, amplitude_pp: (numbers[1] ?? 1) / 1000, unit },
      },
    ]);
  };
  return (
    <>
      <p className="noise-lead">A scope or a meter’s AC range at a device’s own pins. What is measured replaces the estimate of that kind for that source.</p>
      <table className="trials">
        <tbody>
          {(view.plan.noises ?? []).map((one) => (
            <tr key={one.id}>
              <th scope="row">{one.name}</th>
              <td>{one.kind}</td>
              <td>{si(one.hz, "Hz")}</td>
              <td>{si(one.amplitude_pp, one.unit ?? "V")} peak to peak</td>
              <td>
                <Button size="small" onClick={() => run([{ op: "remove", element: one.id }])} aria-label={`Remove ${one.name}`}>
                  Remove
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="picture-tools">
        <Select
          size="small"
          aria-label="source"
          placeholder="what makes it"
          value={element}
          options={sources.map((s) => ({ value: s.id, label: s.name }))}
          onChange={setElement}
          showSearch
          optionFilterProp="label"
          popupMatchSelectWidth={false}
        />
        <Select<Kind> size="small" aria-label="kind" value={kind} options={KINDS.map((value) => ({ value, label: value }))} onChange={setKind} />
        <Input size="small" aria-label="frequency in hertz" placeholder="hertz" value={hz} onChange={(event) => setHz(event.target.value)} />
        <Input
          size="small"
          aria-label="amplitude, peak to peak"
          placeholder={unit === "V" ? "mV peak to peak" : "mA peak to peak"}
          value={size}
          onChange={(event) => setSize(event.target.value)}
        />
        <Select<"V" | "A">
          size="small"
          aria-label="unit"
          value={unit}
          options={[
            { value: "V", label: "mV at its pins" },
            { value: "A", label: "mA drawn" },
          ]}
          onChange={setUnit}
          popupMatchSelectWidth={false}
        />
        <Button size="small" type="primary" disabled={!element} onClick={add}>
          Add what was measured
        </Button>
      </div>
      {problem && (
        <p role="alert" className="quantity-problem">
          {problem}
        </p>
      )}
    </>
  );
}
