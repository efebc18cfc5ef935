/** Ticket of a device. */
import { CHOICES } from "@/shared/api/constants";
import { Button, Select } from "antd";
import type { Device, DeviceState, Provenance } from "@/shared/api/types";
import { elementName } from "@/shared/plan/elements";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { amps, drawText, railTitle, volts } from "@/shared/ui/format";
import { Mark, type MarkKind } from "@/shared/ui/marks";
import { AllFields } from "./AllFields";
import { ConditionTable } from "./ConditionTable";
import { CompassFields } from "./CompassFields";
import { Clamps } from "./Clamps";
import { DeviceLead } from "./DeviceLead";
import { LedFields } from "./LedFields";
import { Pins } from "./Pins";
import { Grounds } from "./Grounds";
import { QuantityField } from "./QuantityField";
import { Upkeep } from "./Upkeep";
import { Wiring } from "./Wiring";

const STATES = CHOICES["SetDraw.state"];
const TRUST: { value: Provenance; label: string }[] = [
  { value: "measured", label: "measured here" },
  { value: "sheet", label: "maker's sheet" },
  { value: "reported", label: "reported" },
  { value: "guess", label: "guess" },
];
const VERDICT: Record<DeviceState["verdict"], string> = { ok: "", off: "off", dead: "dead", low: "low", reset: "resets", high: "too high", unknown: "unknown" };

export function DeviceTicket({ device }: { device: Device }) {
  const { view } = usePlanState();
  const { showWorking, edit } = usePlanActions();
  const answer = view.analysis.budget.devices.find((d) => d.id === device.id);
  if (!answer) return null;
  const wire = device.feed?.wire;
  return (
    <>
      <h2>{device.name}</h2>
      <p className="muted">
        {device.feed
          ? `on ${railTitle(elementName(view, device.feed.rail))}${device.feed.pad ? `, ${elementName(view, device.feed.pad).replace(/^Pad/, "pad")}` : ""}`
          : "not fed"}
        {wire ? `, ${wire.gauge_awg} AWG ${Math.round(wire.length_m * 1000)} mm` : ""} · allowed {device.min_v}–{device.max_v} V, resets below {answer.reset_v}{" "}
        V
      </p>
      <DeviceLead device={device} />
      <ConditionTable
        heads={["draw", "at pin", ""]}
        rows={(condition) => {
          const state = answer.states[condition];
          if (!state) return null;
          const mark: MarkKind = state.weight ?? "ok";
          return {
            mark,
            cells: [
              <button key="a" type="button" className="number" onClick={() => showWorking({ element: device.id, quantity: "asked", condition })}>
                {amps(state.asked_a)}
              </button>,
              <button key="v" type="button" className="number" onClick={() => showWorking({ element: device.id, quantity: "pin", condition })}>
                {volts(state.pin_v)}
              </button>,
              <span key="m">
                {mark !== "ok" && <Mark kind={mark} />} {state.verdict === "dead" && !state.weight ? "no source" : VERDICT[state.verdict]}
              </span>,
            ],
          };
        }}
      />
      {(device.throttle ?? []).length > 0 ? (
        <p className="muted">
          Draws by throttle: {(device.throttle ?? []).map((p) => `${amps(p.amps)} at ${Math.round(p.throttle_frac * 100)} %`).join(", ")}.
        </p>
      ) : device.law === "led" ? (
        <LedFields device={device} />
      ) : (
        <div className="draws">
          {STATES.map((state) => {
            const draw = device.draws[state];
            if (!draw) return null;
            return (
              <div key={state} className="draw">
                <QuantityField
                  label={`${state} draw`}
                  field={`${device.id}:${state}`}
                  stored={drawText({ value: draw.value, unit: draw.unit ?? "A", at_v: draw.at_v })}
                  edits={(text) => [{ op: "set_draw", device: device.id, state, text }]}
                />
                <Select<Provenance>
                  size="small"
                  aria-label={`${state} draw, where from`}
                  value={draw.provenance ?? "sheet"}
                  options={TRUST}
                  onChange={(value) => void edit([{ op: "set", element: device.id, field: `draws.${state}.provenance`, value }]).catch(() => undefined)}
                />
              </div>
            );
          })}
          <MoreDraws device={device} />
        </div>
      )}
      <Clamps at={device.id} />
      <Wiring device={device} />
      <Grounds owner={device} />
      <Pins owner={device} />
      <CompassFields device={device} />
      <AllFields element={device.id} what="device" value={device} without={["name"]} />
      <Upkeep element={device.id} />
    </>
  );
}

const MORE: { state: "boot" | "off"; label: string; as: "typical" | "idle" }[] = [
  { state: "boot", label: "+ draw while it starts", as: "typical" },
  { state: "off", label: "+ draw switched off", as: "idle" },
];

/** Draws that few devices have said of them: offered, and shown above once they are there. */
function MoreDraws({ device }: { device: Device }) {
  const { edit } = usePlanActions();
  const missing = MORE.filter((one) => !device.draws[one.state]);
  return (
    <div className="ticket-tools ticket-wrap">
      {missing.map((one) => (
        <Button
          key={one.state}
          size="small"
          onClick={() =>
            void edit([{ op: "set", element: device.id, field: `draws.${one.state}`, value: device.draws[one.as] as never }]).catch(() => undefined)
          }
        >
          {one.label}
        </Button>
      ))}
    </div>
  );
}
