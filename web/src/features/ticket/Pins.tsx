/** Pins of a board or device, as its pin-out gives them. */
import { Button } from "antd";
import type { PlanDocument } from "@/shared/api/types";
import { CHOICES } from "@/shared/api/constants";
import { usePlanActions } from "@/shared/plan/usePlan";
import { AllFields } from "./AllFields";
import { Choice } from "./Choice";
import { QuantityField } from "./QuantityField";

type Pin = NonNullable<PlanDocument["boards"][number]["pins"]>[number];
const ROLES = CHOICES["Pin.role"];

export function Pins({ owner }: { owner: { id: string; name: string; pins?: Pin[] } }) {
  const { edit } = usePlanActions();
  const pins = owner.pins ?? [];
  const quietly = (work: Promise<unknown>) => void work.catch(() => undefined);
  const add = () => {
    const label = `Pin ${pins.length + 1}`;
    quietly(edit([{ op: "add", kind: "pin", owner: owner.id, value: { label, role: "other" } }]));
  };
  return (
    <details className="wiring">
      <summary>{pins.length === 0 ? "No pins named" : `${pins.length} ${pins.length === 1 ? "pin" : "pins"}`}</summary>
      <div className="fields">
        {pins.map((pin) => (
          <details key={pin.id}>
            <summary>
              {pin.label}, {pin.role ?? "other"}
            </summary>
            <div className="fields">
              <QuantityField
                label="label"
                field={`${pin.id}:label`}
                stored={pin.label}
                edits={(text) => [{ op: "set", element: pin.id, field: "label", value: text }]}
              />
              <Choice
                label="role"
                value={pin.role ?? "other"}
                options={ROLES.map((value) => ({ value, label: value }))}
                edits={(role) => [{ op: "set", element: pin.id, field: "role", value: role }]}
              />
            </div>
            <AllFields element={pin.id} what="pin" value={pin} without={["label", "role"]} />
            <Button size="small" onClick={() => quietly(edit([{ op: "remove", element: pin.id }]))}>
              Remove {pin.label}
            </Button>
          </details>
        ))}
        <Button size="small" onClick={add}>
          Add a pin
        </Button>
      </div>
    </details>
  );
}
