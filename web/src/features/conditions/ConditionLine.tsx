/** The conditions as stations on a line: worst mark, volts and amps. One click or key switches everything. */
import { conditionMark } from "@/shared/plan/look";
import { usePlan, WORST } from "@/shared/plan/usePlan";
import { amps, volts } from "@/shared/ui/format";
import { glyph, word, worst } from "@/shared/ui/marks";
import "./conditions.css";

export function ConditionLine() {
  const { view, condition, choose } = usePlan();
  const heads = view.analysis.budget.conditions;
  const marks = heads.map((head) => conditionMark(view, head.id));
  const all = worst(marks);
  return (
    <div className="line" role="group" aria-label="Conditions">
      <button type="button" className="station station-all" aria-pressed={condition === WORST} onClick={() => choose(WORST)}>
        <span className="station-key">0</span>
        <span className={`station-dot mark-${all}`} aria-label={word(all)}>
          {glyph(all)}
        </span>
        <span className="station-name">Worst of all</span>
        <span className="station-facts">over {heads.length} conditions</span>
      </button>
      <div className="line-run">
        {heads.map((head, index) => {
          const mark = marks[index] ?? "ok";
          return (
            <button type="button" key={head.id} className="station" aria-pressed={condition === head.id} onClick={() => choose(head.id)}>
              <span className="station-key">{index < 9 ? index + 1 : ""}</span>
              <span className={`station-dot mark-${mark}`} aria-label={word(mark)}>
                {glyph(mark)}
              </span>
              <span className="station-name">{head.name}</span>
              <span className="station-facts">
                {head.solved ? `${volts(head.source_v)} · ${amps(head.source_a)}` : "collapses"}
              </span>
            </button>
          );
        })}
      </div>
    </div>
  );
}
