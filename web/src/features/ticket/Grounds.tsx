/** Ground wires of a board or device: where each goes, gauge, length; add and remove. */
import { Button, Select } from "antd";
import type { PlanDocument } from "@/shared/api/types";
import { usePlan } from "@/shared/plan/usePlan";
import { Choice } from "./Choice";
import { QuantityField } from "./QuantityField";

type Return = NonNullable<PlanDocument["boards"][number]["returns"]>[number];
export const GAUGES = [8, 10, 12, 14, 16, 18, 20, 22, 24, 26, 28, 30, 32].map((value) => ({ value, label: `${value} AWG` }));

export function Grounds({ owner }: { owner: { id: string; name: string; returns?: Return[] } }) {
  const { view, edit } = usePlan();
  const returns = owner.returns ?? [];
  const grounds = [
    { value: "pack", label: "pack negative" },
    ...view.plan.boards.filter((b) => b.id !== owner.id).map((b) => ({ value: b.id, label: b.name })),
    ...(view.plan.devices ?? []).filter((d) => d.id !== owner.id).map((d) => ({ value: d.id, label: d.name })),
  ];
  const quietly = (work: Promise<unknown>) => void work.catch(() => undefined);
  return (
    <details className="wiring" open={returns.length === 0}>
      <summary>
        {returns.length === 0 ? "No ground wire" : returns.length === 1 ? "Ground wire" : `${returns.length} ground wires`}
      </summary>
      <div className="fields">
        {returns.map((one, k) => (
          <div key={one.id}>
            <Choice label="to" value={one.to} options={grounds} edits={(to) => [{ op: "set", element: owner.id, field: `returns.${k}.to`, value: to }]} />
            <div className="draw">
              <QuantityField
                label="length"
                field={`${owner.id}:returns.${k}.length`}
                stored={`${Math.round((one.wire?.length_m ?? 0.1) * 1000)}mm`}
                edits={(text) => [{ op: "set_quantity", element: owner.id, field: `returns.${k}.wire.length_m`, text }]}
              />
              <Select
                size="small"
                aria-label="ground gauge"
                value={one.wire?.gauge_awg ?? 26}
                options={GAUGES}
                onChange={(value) => quietly(edit([{ op: "set", element: owner.id, field: `returns.${k}.wire.gauge_awg`, value }]))}
              />
            </div>
            <Button size="small" onClick={() => quietly(edit([{ op: "remove", element: one.id }]))}>
              Remove this ground
            </Button>
          </div>
        ))}
        <Button
          size="small"
          onClick={() => quietly(edit([{ op: "add", kind: "return", owner: owner.id, value: { label: `${owner.id}-gnd`, to: view.plan.boards.find((b) => b.id !== owner.id)?.id ?? "pack" } as never }]))}
        >
          Add a ground wire
        </Button>
      </div>
    </details>
  );
}
