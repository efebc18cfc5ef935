/** A device's feed and returns: pad, gauge, length, and where its ground goes. */
import { Select } from "antd";
import type { Device } from "@/shared/api/types";
import { elementName } from "@/shared/plan/look";
import { usePlan } from "@/shared/plan/usePlan";
import { Choice } from "./Choice";
import { QuantityField } from "./QuantityField";

const GAUGES = [8, 10, 12, 14, 16, 18, 20, 22, 24, 26, 28, 30, 32].map((value) => ({ value, label: `${value} AWG` }));
const NO_PAD = "";

export function Wiring({ device }: { device: Device }) {
  const { view, edit } = usePlan();
  const rail = view.plan.rails.find((r) => r.id === device.feed?.rail);
  const grounds = [
    { value: "pack", label: "pack negative" },
    ...view.plan.boards.map((b) => ({ value: b.id, label: b.name })),
    ...(view.plan.devices ?? []).filter((d) => d.id !== device.id).map((d) => ({ value: d.id, label: d.name })),
  ];
  const wires = [
    ...(device.feed ? [{ label: "feed", field: "feed.wire", wire: device.feed.wire }] : []),
    ...(device.returns ?? []).map((r, k) => ({ label: "return", field: `returns.${k}.wire`, wire: r.wire })),
  ];
  return (
    <details className="wiring">
      <summary>Wiring</summary>
      <div className="fields">
        {rail && (rail.pads ?? []).length > 0 && (
          <Choice
            label="pad"
            value={device.feed?.pad ?? NO_PAD}
            options={[{ value: NO_PAD, label: "not said" }, ...(rail.pads ?? []).map((p) => ({ value: p.id, label: p.label }))]}
            edits={(pad) => [{ op: "move", device: device.id, rail: rail.id, pad: pad === NO_PAD ? null : pad, with_return: false }]}
          />
        )}
        {(device.returns ?? []).map((one, k) => (
          <Choice
            key={one.id}
            label={(device.returns ?? []).length > 1 ? `ground ${k + 1}` : "ground"}
            value={one.to}
            options={grounds}
            edits={(to) => [{ op: "set", element: device.id, field: `returns.${k}.to`, value: to }]}
          />
        ))}
        {(device.returns ?? []).length === 0 && <p>No ground wire. {rail ? `Its rail stands on ${elementName(view, rail.board)}.` : ""}</p>}
        {wires.map(({ label, field, wire }) => (
          <div key={field} className="draw">
            <QuantityField
              label={`${label} length`}
              field={`${device.id}:${field}.length`}
              stored={`${Math.round((wire?.length_m ?? 0.1) * 1000)}mm`}
              edits={(text) => [{ op: "set_quantity", element: device.id, field: `${field}.length_m`, text }]}
            />
            <Select
              size="small"
              aria-label={`${label} gauge`}
              value={wire?.gauge_awg ?? 26}
              options={GAUGES}
              onChange={(value) => void edit([{ op: "set", element: device.id, field: `${field}.gauge_awg`, value }]).catch(() => undefined)}
            />
          </div>
        ))}
      </div>
    </details>
  );
}
