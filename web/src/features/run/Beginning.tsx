/** What a scenario is called and how it begins: in a condition or with nothing plugged, how full the pack is, what air moves. */
import { Select } from "antd";
import { CHOICES } from "@/shared/api/constants";
import { usePlanState } from "@/shared/plan/usePlan";
import { Typed } from "./Typed";
import type { ScenarioSeen } from "./useRun";

const NOTHING = "";

export function Beginning({ scenario, set }: { scenario: ScenarioSeen["scenario"]; set: (field: string, value: unknown) => Promise<void> }) {
  const { view } = usePlanState();
  const begins = [{ value: NOTHING, label: "nothing plugged" }, ...(view.plan.conditions ?? []).map((one) => ({ value: one.id, label: one.name }))];
  const choice = (label: string, field: "pack_state" | "air", unsaid: string) => (
    <label>
      {label}{" "}
      <Select<string>
        size="small"
        aria-label={label}
        value={scenario[field] ?? NOTHING}
        options={[{ value: NOTHING, label: unsaid }, ...CHOICES[`Scenario.${field}`].map((one) => ({ value: one as string, label: one as string }))]}
        onChange={(one) => void set(field, one || null)}
        popupMatchSelectWidth={false}
      />
    </label>
  );
  return (
    <div className="acts-foot">
      <span>
        called <Typed label="name of the scenario" value={scenario.name} send={(text) => void set("name", text)} />
      </span>
      <label>
        begins in{" "}
        <Select<string>
          size="small"
          aria-label="begins in"
          value={scenario.begins ?? NOTHING}
          options={begins}
          onChange={(one) => void set("begins", one || null)}
          popupMatchSelectWidth={false}
        />
      </label>
      {choice("pack", "pack_state", scenario.begins ? "as in the condition" : "full")}
      {choice("air", "air", scenario.begins ? "as in the condition" : "still")}
    </div>
  );
}
