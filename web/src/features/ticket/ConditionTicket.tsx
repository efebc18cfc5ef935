/** A condition: energy, pack state, air, throttle, and the state of each device. */
import { CHOICES } from "@/shared/api/constants";
import { Button, Select } from "antd";
import type { PlanDocument } from "@/shared/api/types";
import { WORST, usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { Choice } from "./Choice";
import { NumberField } from "./NumberField";
import { QuantityField } from "./QuantityField";

type Condition = NonNullable<PlanDocument["conditions"]>[number];
const STATES = CHOICES["SetState.state"].map((value) => ({ value, label: value }));
const DEFAULT = "";

export function ConditionTicket({ condition }: { condition: Condition }) {
  const { view } = usePlanState();
  const { edit, select, choose } = usePlanActions();
  const energy = [
    { value: "pack", label: "pack" },
    ...(view.plan.inlets ?? []).filter((inlet) => inlet.kind !== "cell").map((inlet) => ({ value: inlet.id, label: inlet.name })),
  ];
  const set = (field: string) => (value: string | string[]) => [{ op: "set" as const, element: condition.id, field, value }];
  const quietly = (work: Promise<unknown>) => void work.catch(() => undefined);
  const remove = async () => {
    await edit([{ op: "remove", element: condition.id }]);
    select(null);
    choose(WORST);
  };
  return (
    <>
      <h2>Condition</h2>
      <div className="fields">
        <QuantityField label="name" field={`${condition.id}:name`} stored={condition.name} edits={(text) => set("name")(text)} />
        <Choice label="energy" value={condition.energy ?? ["pack"]} options={energy} edits={set("energy")} />
        <Choice
          label="pack"
          value={condition.pack_state ?? "nominal"}
          options={CHOICES["Condition.pack_state"].map((value) => ({ value, label: value }))}
          edits={set("pack_state")}
        />
        <QuantityField
          label="measured pack"
          field={`${condition.id}:pack_v`}
          stored={condition.pack_v ? `${condition.pack_v}V` : ""}
          edits={(text) =>
            text.trim() === ""
              ? [{ op: "set", element: condition.id, field: "pack_v", value: null }]
              : [{ op: "set_quantity", element: condition.id, field: "pack_v", text }]
          }
        />
        <Choice label="air" value={condition.air ?? "moving"} options={CHOICES["Condition.air"].map((value) => ({ value, label: value }))} edits={set("air")} />
        <NumberField label="throttle" element={condition.id} field="throttle_frac" value={condition.throttle_frac ?? 0} factor={100} unit="%" />
        <Choice label="devices" value={condition.default_state ?? "typical"} options={STATES} edits={set("default_state")} />
      </div>
      <table className="conditions">
        <tbody>
          {(view.plan.devices ?? [])
            .filter((device) => (device.throttle ?? []).length === 0)
            .map((device) => (
              <tr key={device.id}>
                <th scope="row">{device.name}</th>
                <td>
                  <Select
                    size="small"
                    aria-label={`${device.name} in this condition`}
                    value={condition.states?.[device.id] ?? DEFAULT}
                    options={[{ value: DEFAULT, label: `as above (${condition.default_state ?? "typical"})` }, ...STATES]}
                    popupMatchSelectWidth={false}
                    onChange={(value) =>
                      quietly(
                        edit([
                          {
                            op: "set_state",
                            condition: condition.id,
                            device: device.id,
                            state: value === DEFAULT ? null : (value as "off" | "idle" | "typical" | "peak"),
                          },
                        ]),
                      )
                    }
                  />
                </td>
              </tr>
            ))}
        </tbody>
      </table>
      <Button size="small" danger disabled={(view.plan.conditions ?? []).length < 2} onClick={() => quietly(remove())}>
        Remove this condition
      </Button>
    </>
  );
}
