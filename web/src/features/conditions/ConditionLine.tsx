/** The conditions as stations on a line: worst mark, volts and amps. One click or key switches everything. */
import { useEffect, useRef } from "react";
import { conditionMark } from "@/shared/plan/marks";
import { useFindings } from "@/shared/plan/useNoise";
import { WORST, usePlanActions, usePlanState, useSelection } from "@/shared/plan/usePlan";
import { amps, counted, volts } from "@/shared/ui/format";
import { glyph, word } from "@/shared/ui/marks";
import "./conditions.css";

export function ConditionLine() {
  const { view } = usePlanState();
  const { condition } = useSelection();
  const { choose, select, edit } = usePlanActions();
  const line = useRef<HTMLDivElement>(null);
  // Of more conditions than the line is wide for, the chosen one is always in sight.
  useEffect(() => {
    line.current?.querySelector('[aria-pressed="true"]')?.scrollIntoView({ inline: "nearest", block: "nearest" });
  }, [condition]);
  const heads = view.analysis.budget.conditions;
  const findings = useFindings(view);
  const marks = heads.map((head) => conditionMark(findings, head.id));
  const all = conditionMark(findings, WORST);
  const current = view.plan.conditions?.find((one) => one.id === condition);
  // A condition of one's own starts as a copy of the one on screen and opens for changing.
  const add = async () => {
    const known = new Set(heads.map((head) => head.id));
    try {
      const after = current
        ? await edit([{ op: "duplicate", element: current.id }])
        : await edit([{ op: "add", kind: "condition", value: { name: "New condition" } }]);
      const fresh = after.analysis.budget.conditions.find((head) => !known.has(head.id));
      if (fresh) {
        choose(fresh.id);
        select(fresh.id);
      }
    } catch {
      // the frame shows the error
    }
  };
  return (
    <section className="line" aria-label="Conditions">
      <button type="button" className="station station-all" aria-pressed={condition === WORST} onClick={() => choose(WORST)}>
        <span className="station-key">0</span>
        <span className={`station-dot mark-${all}`} aria-label={word(all)}>
          {glyph(all)}
        </span>
        <span className="station-name">Worst of all</span>
        <span className="station-facts">over {counted(heads.length, "condition")}</span>
      </button>
      <div className="line-run" ref={line}>
        {heads.map((head, index) => {
          const mark = marks[index] ?? "ok";
          return (
            <button type="button" key={head.id} className="station" title={head.name} aria-pressed={condition === head.id} onClick={() => choose(head.id)}>
              <span className="station-key">{index < 9 ? index + 1 : ""}</span>
              <span className={`station-dot mark-${mark}`} aria-label={word(mark)}>
                {glyph(mark)}
              </span>
              <span className="station-name">{head.name}</span>
              <span className="station-facts">{head.solved ? `${volts(head.source_v)} · ${amps(head.source_a)}` : head.known ? "collapses" : "unknown"}</span>
            </button>
          );
        })}
      </div>
      <div className="line-tools">
        {current && (
          <button type="button" className="line-tool" onClick={() => select(current.id)} title="Change this condition">
            Edit
          </button>
        )}
        <button type="button" className="line-tool" onClick={() => void add()} title={current ? `A copy of ${current.name} to change` : "A new condition"}>
          + condition
        </button>
      </div>
    </section>
  );
}
