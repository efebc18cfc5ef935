/** Pads of a rail: label and limit of each; add and remove. */
import { Button } from "antd";
import type { PlanDocument } from "@/shared/api/types";
import { usePlanActions } from "@/shared/plan/usePlan";
import { QuantityField } from "./QuantityField";

export function Pads({ rail }: { rail: PlanDocument["rails"][number] }) {
  const { edit } = usePlanActions();
  const pads = rail.pads ?? [];
  const quietly = (work: Promise<unknown>) => void work.catch(() => undefined);
  return (
    <details className="wiring">
      <summary>{pads.length === 0 ? "No pads named" : `${pads.length} ${pads.length === 1 ? "pad" : "pads"}`}</summary>
      <div className="fields">
        {pads.map((pad, k) => (
          <div key={pad.id}>
            <QuantityField
              label="label"
              field={`${pad.id}:label`}
              stored={pad.label}
              edits={(text) => [{ op: "set", element: pad.id, field: "label", value: text }]}
            />
            <QuantityField
              label="limit"
              field={`${pad.id}:limit`}
              stored={pad.limit_a ? `${pad.limit_a}A` : ""}
              edits={(text) =>
                text.trim() === ""
                  ? [{ op: "set", element: rail.id, field: `pads.${k}.limit_a`, value: null }]
                  : [{ op: "set_quantity", element: rail.id, field: `pads.${k}.limit_a`, text }]
              }
            />
            <Button size="small" onClick={() => quietly(edit([{ op: "remove", element: pad.id }]))}>
              Remove {pad.label}
            </Button>
          </div>
        ))}
        <Button size="small" onClick={() => quietly(edit([{ op: "add", kind: "pad", owner: rail.id, value: { label: `Pad ${pads.length + 1}` } }]))}>
          Add a pad
        </Button>
      </div>
    </details>
  );
}
