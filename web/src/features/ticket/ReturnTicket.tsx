/** Ticket of a ground wire: what flows in it, whose it is, where it goes. */
import { Button } from "antd";
import type { PlanDocument } from "@/shared/api/types";
import { elementName } from "@/shared/plan/elements";
import { usePlanActions, usePlanState, useSelection } from "@/shared/plan/usePlan";
import { amps, si, volts } from "@/shared/ui/format";
import { Choice } from "./Choice";
import { ConditionTable } from "./ConditionTable";
import { WireFields } from "./WireFields";

type Owner = { id: string; name: string; pins?: PlanDocument["boards"][number]["pins"] };
type Wire = NonNullable<PlanDocument["boards"][number]["returns"]>[number];
const NO_PIN = "";

export function ReturnTicket({ owner, wire }: { owner: Owner; wire: Wire }) {
  const { view } = usePlanState();
  const { condition } = useSelection();
  const { edit, select, showWorking } = usePlanActions();
  const segment = view.analysis.returns.segments.find((s) => s.id === wire.id);
  if (!segment) return null;
  const shown = segment.states[condition] ?? Object.values(segment.states)[0];
  const grounds = [
    { value: "pack", label: "pack negative" },
    ...[...view.plan.boards, ...(view.plan.devices ?? [])].filter((one) => one.id !== owner.id).map((one) => ({ value: one.id, label: one.name })),
  ];
  return (
    <>
      <h2>Ground of {owner.name}</h2>
      <p className="muted">
        {si(segment.ohm, "Ω")}, {si(segment.henry_h, "H")}.{" "}
        {shown && shown.carries.length > 0
          ? `${segment.shared ? "A shared piece. It carries" : "It carries"} ${shown.carries.map((c) => `${elementName(view, c.element)} ${amps(c.amps_a)}`).join(", ")}.`
          : "Nobody's current flows here."}
      </p>
      <ConditionTable
        heads={["amps", "drop", "ground"]}
        rows={(id) => {
          const state = segment.states[id];
          if (!state) return null;
          const height = view.analysis.returns.grounds.find((g) => g.id === owner.id)?.states[id];
          return {
            mark: "ok",
            cells: [
              amps(Math.abs(state.amps_a)),
              volts(Math.abs(state.drop_v)),
              <button key="g" type="button" className="number" onClick={() => showWorking({ element: owner.id, quantity: "ground", condition: id })}>
                {volts(height?.volts_v)}
              </button>,
            ],
          };
        }}
      />
      <div className="fields">
        <Choice label="goes to" value={wire.to} options={grounds} edits={(to) => [{ op: "set", element: wire.id, field: "to", value: to }]} />
        {(owner.pins ?? []).length > 0 && (
          <Choice
            label="leaves pin"
            value={wire.pin ?? NO_PIN}
            options={[{ value: NO_PIN, label: "not said" }, ...(owner.pins ?? []).map((p) => ({ value: p.id, label: p.label }))]}
            edits={(pin) => [{ op: "set", element: wire.id, field: "pin", value: pin === NO_PIN ? null : pin }]}
          />
        )}
      </div>
      <WireFields element={wire.id} at="wire" wire={wire.wire} />
      <div className="ticket-tools">
        <Button size="small" onClick={() => select(owner.id)}>
          {owner.name}
        </Button>
        <Button
          size="small"
          danger
          onClick={() =>
            void edit([{ op: "remove", element: wire.id }]).then(
              () => select(owner.id),
              () => undefined,
            )
          }
        >
          Remove this ground
        </Button>
      </div>
    </>
  );
}
