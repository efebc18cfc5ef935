/** Ticket of the pack. */
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { amps, volts } from "@/shared/ui/format";
import { AllFields } from "./AllFields";
import { ConditionTable } from "./ConditionTable";
import { Limiters } from "./Limiters";
import { WireFields } from "./WireFields";

export function PackTicket() {
  const { view } = usePlanState();
  const { showWorking } = usePlanActions();
  const { pack } = view.plan;
  return (
    <>
      <h2>{pack.name}</h2>
      <p className="muted">
        {pack.series}S{pack.parallel}P {pack.chemistry}, {Number((pack.capacity_ah * pack.parallel).toPrecision(4))} Ah, {(pack.cell_ohm * 1000).toFixed(1)} mΩ
        a cell
      </p>
      <ConditionTable
        heads={["at rest", "at board", "amps", "minutes"]}
        rows={(id) => {
          const head = view.analysis.budget.conditions.find((c) => c.id === id);
          if (!head) return null;
          return {
            mark: head.solved ? "ok" : "danger",
            cells: [
              volts(head.pack_rest_v),
              <button key="v" type="button" className="number" onClick={() => showWorking({ element: "pack", quantity: "pack", condition: id })}>
                {volts(head.pack_v)}
              </button>,
              amps(head.pack_a),
              head.minutes ? head.minutes.toFixed(1) : "–",
            ],
          };
        }}
      />
      <Limiters />
      <AllFields element="pack" what="pack" value={pack} />
      <details className="wiring">
        <summary>Pack lead</summary>
        <WireFields element="pack" at="lead" wire={pack.lead} />
      </details>
    </>
  );
}
