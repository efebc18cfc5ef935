/** Ticket of a rail. */
import { shownIn } from "@/shared/plan/marks";
import { Button } from "antd";
import { elementName } from "@/shared/plan/elements";
import { usePlanActions, usePlanState, useSelection } from "@/shared/plan/usePlan";
import { amps, percent, railTitle, volts } from "@/shared/ui/format";
import { AllFields } from "./AllFields";
import { BesideSupply } from "./BesideSupply";
import { Clamps } from "./Clamps";
import { ConditionTable } from "./ConditionTable";
import { Feeds } from "./Feeds";
import { Pads } from "./Pads";
import { Upkeep } from "./Upkeep";

export function RailTicket({ railId }: { railId: string }) {
  const { view } = usePlanState();
  const { condition } = useSelection();
  const { showWorking, select, edit } = usePlanActions();
  const answer = view.analysis.budget.rails.find((r) => r.id === railId);
  const rail = view.plan.rails.find((r) => r.id === railId);
  if (!answer || !rail) return null;
  const shown = shownIn(answer, condition);
  const limits = answer.states[shown]?.limits ?? [];
  const words = view.analysis.captions.limits[railId]?.[shown] ?? [];
  const guess = Math.max(...Object.values(answer.states).map((s) => s.guess_frac));
  return (
    <>
      <h2>{railTitle(rail.name)}</h2>
      <p className="muted">
        {limits.length > 0 ? `Usable: ${limits.map((l, k) => `${amps(l.amps_a)} (${words[k]})`).join("; ")}.` : "No supply in this condition."}
        {guess > 0 ? ` Up to ${percent(guess)} of its load is unmeasured.` : ""}
      </p>
      <ConditionTable
        heads={["volts", "asked", "usable", "spare"]}
        rows={(id) => {
          const state = answer.states[id];
          if (!state) return null;
          const ask = (quantity: "volts" | "asked" | "usable" | "spare", text: string) => (
            <button key={quantity} type="button" className="number" onClick={() => showWorking({ element: railId, quantity, condition: id })}>
              {text}
            </button>
          );
          return {
            mark: state.tone,
            cells: [
              ask("volts", volts(state.volts_v)),
              ask("asked", amps(state.asked_a)),
              ask("usable", amps(state.usable_a)),
              ask("spare", amps(state.spare_a)),
            ],
          };
        }}
      />
      <div className="ticket-tools">
        <Button size="small" onClick={() => select(rail.board)}>
          Board: {elementName(view, rail.board)}
        </Button>
      </div>
      <Pads rail={rail} />
      <Clamps at={railId} />
      <Feeds rail={rail} />
      <BesideSupply rail={rail} />
      {(view.plan.inlets ?? [])
        .filter((inlet) => inlet.rail === railId)
        .map((inlet) => (
          <div key={inlet.id}>
            <AllFields element={inlet.id} what="inlet" value={inlet} without={inlet.cells ? ["kind", "volts", "output_f"] : []} />
            {inlet.cells && <AllFields element={inlet.id} what="cells" value={{ ...inlet.cells }} at="cells" />}
            <Button size="small" onClick={() => void edit([{ op: "remove", element: inlet.cells ? rail.board : inlet.id }]).catch(() => undefined)}>
              Remove {inlet.name}
            </Button>
          </div>
        ))}
      <AllFields element={railId} what="rail" value={rail} without={["name", "board"]} />
      <Upkeep element={railId} />
    </>
  );
}
