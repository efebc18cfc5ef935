/** Clamps fitted at a rail or device, and their ticket. */
import type { PlanDocument } from "@/shared/api/types";
import { elementName } from "@/shared/plan/elements";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { AllFields } from "./AllFields";
import { Upkeep } from "./Upkeep";

type Clamp = NonNullable<PlanDocument["clamps"]>[number];

export function Clamps({ at }: { at: string }) {
  const { view } = usePlanState();
  const { select } = usePlanActions();
  const here = (view.plan.clamps ?? []).filter((one) => one.at === at);
  if (here.length === 0) return null;
  return (
    <p className="muted">
      Clamped by{" "}
      {here.map((one) => (
        <button key={one.id} type="button" className="number ticket-link" onClick={() => select(one.id)}>
          {one.name}
        </button>
      ))}
    </p>
  );
}

export function ClampTicket({ clamp }: { clamp: Clamp }) {
  const { view } = usePlanState();
  return (
    <>
      <h2>{clamp.name}</h2>
      <p className="muted">
        at {elementName(view, clamp.at)} · draws nothing up to {clamp.standoff_v} V, conducts from {clamp.breakdown_v} V
      </p>
      <AllFields element={clamp.id} what="clamp" value={clamp} without={["name"]} />
      <Upkeep element={clamp.id} />
    </>
  );
}
