/** A device's feed: pad, pin, wire. */
import type { Device } from "@/shared/api/types";
import { usePlanState } from "@/shared/plan/usePlan";
import { Choice } from "./Choice";
import { WireFields } from "./WireFields";

const NOT_SAID = "";

export function Wiring({ device }: { device: Device }) {
  const { view } = usePlanState();
  const rail = view.plan.rails.find((r) => r.id === device.feed?.rail);
  // A pad that takes power in feeds nobody; one that was chosen all the same is shown.
  const leads = (rail?.pads ?? []).filter((pad) => pad.direction !== "in" || pad.id === device.feed?.pad);
  return (
    <details className="wiring">
      <summary>{device.feed ? "Feed wire" : "Not fed: move it to a rail"}</summary>
      <div className="fields">
        {rail && (rail.pads ?? []).length > 0 && (
          <Choice
            label="pad"
            value={device.feed?.pad ?? NOT_SAID}
            options={[{ value: NOT_SAID, label: "not said" }, ...leads.map((p) => ({ value: p.id, label: p.label }))]}
            edits={(pad) => [{ op: "move", device: device.id, rail: rail.id, pad: pad === NOT_SAID ? null : pad, with_return: false }]}
          />
        )}
        {device.feed && (device.pins ?? []).length > 0 && (
          <Choice
            label="lands on pin"
            value={device.feed.pin ?? NOT_SAID}
            options={[{ value: NOT_SAID, label: "not said" }, ...(device.pins ?? []).map((p) => ({ value: p.id, label: p.label }))]}
            edits={(pin) => [{ op: "set", element: device.id, field: "feed.pin", value: pin === NOT_SAID ? null : pin }]}
          />
        )}
      </div>
      {device.feed && <WireFields element={device.id} at="feed.wire" wire={device.feed.wire} />}
    </details>
  );
}
