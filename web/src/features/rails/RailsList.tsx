/** The rails as a list, for screens too small for tracks: each rail with its supply, its tally and its devices. */
import { elementMarks, shownIn } from "@/shared/plan/marks";
import { useFindings } from "@/shared/plan/useNoise";
import { usePlanActions, usePlanState, useSelection } from "@/shared/plan/usePlan";
import { amps, railTitle, volts } from "@/shared/ui/format";
import { Mark } from "@/shared/ui/marks";
import { blockText } from "./blockText";

export function RailsList() {
  const { view } = usePlanState();
  const { condition, selected } = useSelection();
  const { select } = usePlanActions();
  const marks = elementMarks(useFindings(view), condition);
  return (
    <ul className="rails-list">
      {view.analysis.budget.rails.map((rail) => {
        const at = shownIn(rail, condition);
        const state = rail.states[at];
        if (!state) return null;
        const block = blockText(view, rail, at);
        const mark = marks.get(block.element) ?? marks.get(rail.id) ?? "ok";
        return (
          <li key={rail.id} className={`rails-list-rail ${state.tone === "ok" ? "" : `is-${state.tone}`}`}>
            <button type="button" className="rails-list-head" aria-pressed={selected === rail.id} onClick={() => select(rail.id)}>
              <strong>
                {mark !== "ok" && <Mark kind={mark} />} {railTitle(rail.name)}
              </strong>
              <span>{volts(state.volts_v)}</span>
              <span className="rails-list-tally">
                {state.usable_a <= 0
                  ? "no source"
                  : state.tone !== "ok"
                    ? `asked ${amps(state.asked_a)}, usable ${amps(state.usable_a)}`
                    : `spare ${amps(state.spare_a)} of ${amps(state.usable_a)}`}
              </span>
            </button>
            {block.element !== rail.id && (
              <button type="button" className="plain rails-list-supply" onClick={() => select(block.element)}>
                from {block.title}
              </button>
            )}
            <ul>
              {state.consumers
                .filter((wagon) => wagon.kind === "device")
                .map((wagon) => {
                  const own = marks.get(wagon.id);
                  return (
                    <li key={wagon.id}>
                      <button type="button" className="rails-list-wagon" aria-pressed={selected === wagon.id} onClick={() => select(wagon.id)}>
                        <span>
                          {own && own !== "ok" && <Mark kind={own} />} {wagon.name}
                        </span>
                        <span>{amps(wagon.asked_a)}</span>
                      </button>
                    </li>
                  );
                })}
            </ul>
          </li>
        );
      })}
    </ul>
  );
}
