/** Ticket of a filter: its values, and whether it is really fitted. */
import { elementName } from "@/shared/plan/elements";
import type { Filter } from "@/shared/api/types";
import { usePlanState } from "@/shared/plan/usePlan";
import { AllFields } from "./AllFields";
import { Choice } from "./Choice";
import { FilterNumbers } from "./FilterNumbers";
import { Upkeep } from "./Upkeep";

export function FilterTicket({ filter }: { filter: Filter }) {
  const { view } = usePlanState();
  return (
    <>
      <h2>{filter.name}</h2>
      <p className="muted">
        {filter.kind === "lc" ? "LC section" : filter.kind} at {elementName(view, filter.at)}
      </p>
      <FilterNumbers filter={filter} />
      <div className="fields">
        <Choice
          label="fitted"
          value={filter.fitted === false ? "no" : "yes"}
          options={[
            { value: "yes", label: "yes" },
            { value: "no", label: "claimed only" },
          ]}
          edits={(value) => [{ op: "set", element: filter.id, field: "fitted", value: value === "yes" }]}
        />
      </div>
      <AllFields element={filter.id} what="filter" value={filter} without={["name", "fitted", "at", "kind"]} />
      <Upkeep element={filter.id} />
    </>
  );
}
