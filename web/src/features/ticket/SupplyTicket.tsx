/** Ticket of a regulator, diode, link or strap. */
import type { Supply } from "@/shared/api/types";
import { elementName } from "@/shared/plan/elements";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { amps, celsius, seconds, volts } from "@/shared/ui/format";
import { AllFields } from "./AllFields";
import { Choice } from "./Choice";
import { ConditionTable } from "./ConditionTable";
import { QuantityField } from "./QuantityField";
import { Upkeep } from "./Upkeep";

export function SupplyTicket({ supply }: { supply: Supply }) {
  const { view } = usePlanState();
  const { showWorking } = usePlanActions();
  const answer = view.analysis.budget.supplies.find((s) => s.id === supply.id);
  if (!answer) return null;
  const regulator = "set_v" in supply ? supply : null;
  const strap = "choices" in supply ? supply : null;
  const trips = Object.values(answer.states)
    .map((s) => s.still_trip_s)
    .filter((s): s is number => typeof s === "number");
  return (
    <>
      <h2>{supply.name}</h2>
      <p className="muted">
        {supply.kind}, {elementName(view, supply.input)} → {elementName(view, supply.output)}
        {regulator ? `, fails ${regulator.fails}` : ""}
        {trips.length > 0 ? `, trips after ${seconds(Math.min(...trips))} in still air at the worst` : ""}
      </p>
      <ConditionTable
        heads={regulator ? ["out", "amps", "headroom", "heat"] : ["in", "out", "amps"]}
        rows={(condition) => {
          const state = answer.states[condition];
          if (!state) return null;
          const ask = (quantity: "headroom" | "temperature" | "volts", text: string) => (
            <button key={quantity} type="button" className="number" onClick={() => showWorking({ element: supply.id, quantity, condition })}>
              {text}
            </button>
          );
          const cells = regulator
            ? [
                ask("volts", volts(state.out_v)),
                amps(state.asked_a),
                state.headroom_v === null || state.headroom_v === undefined || state.mode === "off" ? state.mode : ask("headroom", volts(state.headroom_v)),
                ask("temperature", celsius(state.temp_c)),
              ]
            : [volts(state.in_v), ask("volts", volts(state.out_v)), amps(state.out_a)];
          return { mark: state.weight ?? "ok", cells };
        }}
      />
      <AllFields element={supply.id} what="supply" value={supply} without={["name"]} />
      <Upkeep element={supply.id} />
      {strap && (
        <div className="fields">
          <Choice
            label="bridged to"
            value={strap.selected ?? []}
            options={strap.choices.map((id) => ({ value: id, label: elementName(view, id) }))}
            edits={(value) => [{ op: "set", element: supply.id, field: "selected", value }]}
          />
        </div>
      )}
      {regulator && (
        <div className="fields">
          <QuantityField
            label="output"
            field={`${supply.id}:set_v`}
            stored={`${regulator.set_v}V`}
            edits={(text) => [{ op: "set_quantity", element: supply.id, field: "set_v", text }]}
          />
          <QuantityField
            label="printed rating"
            field={`${supply.id}:rating_a`}
            stored={`${regulator.rating_a}A`}
            edits={(text) => [{ op: "set_quantity", element: supply.id, field: "rating_a", text }]}
          />
        </div>
      )}
    </>
  );
}
