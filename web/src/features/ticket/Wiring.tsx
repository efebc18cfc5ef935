/** A device's feed: pad, gauge, length. */
import { Select } from "antd";
import type { Device } from "@/shared/api/types";
import { usePlan } from "@/shared/plan/usePlan";
import { Choice } from "./Choice";
import { GAUGES } from "./Grounds";
import { QuantityField } from "./QuantityField";

const NO_PAD = "";

export function Wiring({ device }: { device: Device }) {
  const { view, edit } = usePlan();
  const rail = view.plan.rails.find((r) => r.id === device.feed?.rail);
  const wires = device.feed ? [{ label: "feed", field: "feed.wire", wire: device.feed.wire }] : [];
  return (
    <details className="wiring">
      <summary>{device.feed ? "Feed wire" : "Not fed: move it to a rail"}</summary>
      <div className="fields">
        {rail && (rail.pads ?? []).length > 0 && (
          <Choice
            label="pad"
            value={device.feed?.pad ?? NO_PAD}
            options={[{ value: NO_PAD, label: "not said" }, ...(rail.pads ?? []).map((p) => ({ value: p.id, label: p.label }))]}
            edits={(pad) => [{ op: "move", device: device.id, rail: rail.id, pad: pad === NO_PAD ? null : pad, with_return: false }]}
          />
        )}
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
