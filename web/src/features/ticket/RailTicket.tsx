/** Ticket of a rail. */
import { usePlan } from "@/shared/plan/usePlan";
import { amps, percent, railTitle, volts } from "@/shared/ui/format";
import { ConditionTable } from "./ConditionTable";
import { Upkeep } from "./Upkeep";

export function RailTicket({ railId }: { railId: string }) {
  const { view, showWorking, condition } = usePlan();
  const answer = view.analysis.budget.rails.find((r) => r.id === railId);
  const rail = view.plan.rails.find((r) => r.id === railId);
  if (!answer || !rail) return null;
  const limits = (answer.states[condition] ?? Object.values(answer.states)[0])?.limits ?? [];
  const guess = Math.max(...Object.values(answer.states).map((s) => s.guess_frac));
  return (
    <>
      <h2>{railTitle(rail.name)}</h2>
      <p className="muted">
        {limits.length > 0 ? `Usable: ${limits.map((l) => `${amps(l.amps_a)} (${l.reason})`).join("; ")}.` : "No supply in this condition."}
        {guess > 0 ? ` Up to ${percent(guess)} of its load is hearsay.` : ""}
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
            mark: state.spare_a < 0 ? "fault" : "ok",
            cells: [
              ask("volts", volts(state.volts_v)),
              ask("asked", amps(state.asked_a)),
              ask("usable", amps(state.usable_a)),
              ask("spare", amps(state.spare_a)),
            ],
          };
        }}
      />
      <Upkeep element={railId} />
    </>
  );
}
