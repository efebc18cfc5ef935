/** How often each kind of fault happens beside the others: common practice, until the builder knows better. */
import { Button, InputNumber } from "antd";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import type { Effort } from "./useBench";

export function Weights({ effort }: { effort: Effort }) {
  const { view } = usePlanState();
  const { edit } = usePlanActions();
  const own = view.plan.policy?.fault_weights ?? {};
  const put = (weights: Partial<Record<string, number>>) =>
    void edit([{ op: "set", element: "policy", field: "fault_weights", value: weights as Record<string, number> }]).catch(() => undefined);
  return (
    <details className="schools">
      <summary>How often each fault happens</summary>
      <p className="muted">Beside the others, for each place it can happen at: common practice, no source. What you set belongs to this plan.</p>
      <div className="weights">
        {Object.entries(effort.weights).map(([kind, weight]) => (
          <label key={kind} className={kind in own ? "is-own" : ""}>
            {kind}{" "}
            <InputNumber
              size="small"
              min={0}
              max={100}
              step={0.1}
              value={weight}
              onChange={(value) => value !== null && value !== weight && put({ ...own, [kind]: value })}
            />
          </label>
        ))}
      </div>
      {Object.keys(own).length > 0 && (
        <Button size="small" onClick={() => put({})}>
          As common practice has it
        </Button>
      )}
    </details>
  );
}
