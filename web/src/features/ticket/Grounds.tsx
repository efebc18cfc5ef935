/** Ground wires of a board or device: where each goes; each has a ticket of its own. */
import { Button } from "antd";
import type { PlanDocument } from "@/shared/api/types";
import { usePlanActions, usePlanState, useSelection } from "@/shared/plan/usePlan";
import { amps, volts } from "@/shared/ui/format";
import { Choice } from "./Choice";
import { WireFields } from "./WireFields";

type Return = NonNullable<PlanDocument["boards"][number]["returns"]>[number];

export function Grounds({ owner }: { owner: { id: string; name: string; returns?: Return[] } }) {
  const { view } = usePlanState();
  const { condition } = useSelection();
  const { edit, select, showWorking } = usePlanActions();
  const returns = owner.returns ?? [];
  const grounds = [
    { value: "pack", label: "pack negative" },
    ...view.plan.boards.filter((b) => b.id !== owner.id).map((b) => ({ value: b.id, label: b.name })),
    ...(view.plan.devices ?? []).filter((d) => d.id !== owner.id).map((d) => ({ value: d.id, label: d.name })),
  ];
  const states = view.analysis.returns.grounds.find((g) => g.id === owner.id)?.states ?? {};
  const shown = states[condition] ? condition : (Object.keys(states).sort((a, b) => (states[b]?.volts_v ?? 0) - (states[a]?.volts_v ?? 0))[0] ?? "");
  const quietly = (work: Promise<unknown>) => void work.catch(() => undefined);
  return (
    <details className="wiring" open={returns.length === 0}>
      <summary>{returns.length === 0 ? "No ground wire" : returns.length === 1 ? "Ground wire" : `${returns.length} ground wires`}</summary>
      <p className="muted">
        Its ground stands at{" "}
        <button type="button" className="number" onClick={() => showWorking({ element: owner.id, quantity: "ground", condition: shown })}>
          {volts(states[shown]?.volts_v)}
        </button>
        .
      </p>
      <div className="fields">
        {returns.map((one) => {
          const state = view.analysis.returns.segments.find((s) => s.id === one.id)?.states[shown];
          return (
            <div key={one.id}>
              <Choice label="to" value={one.to} options={grounds} edits={(to) => [{ op: "set", element: one.id, field: "to", value: to }]} />
              <WireFields element={one.id} at="wire" wire={one.wire} />
              <div className="ticket-tools">
                <Button size="small" onClick={() => select(one.id)}>
                  What flows in it ({amps(Math.abs(state?.amps_a ?? 0))})
                </Button>
                <Button size="small" onClick={() => quietly(edit([{ op: "remove", element: one.id }]))}>
                  Remove this ground
                </Button>
              </div>
            </div>
          );
        })}
        <Button
          size="small"
          onClick={() =>
            quietly(
              edit([
                {
                  op: "add",
                  kind: "return",
                  owner: owner.id,
                  value: { label: `${owner.id}-gnd`, to: view.plan.boards.find((b) => b.id !== owner.id)?.id ?? "pack" } as never,
                },
              ]),
            )
          }
        >
          Add a ground wire
        </Button>
      </div>
    </details>
  );
}
