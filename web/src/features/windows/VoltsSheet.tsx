/** Allowed volts against seen volts, with a slider that takes the pack from full to floor. */
import { Select } from "antd";
import { useLayoutEffect, useMemo, useRef, useState } from "react";
import { INSTANT } from "@/shared/plan/instant";
import { usePlanState, useSelection } from "@/shared/plan/usePlan";
import { Advice } from "./Advice";
import { DeviceBars } from "./DeviceBars";
import { PackSlider } from "./PackSlider";

const SLIDER_W = 280;
/** Below this the pack stands under the bars. */
const NARROW_W = 700;

export function VoltsSheet() {
  const { view } = usePlanState();
  const { condition } = useSelection();
  const { windows } = view.analysis;
  const frame = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(840);
  const [picked, setPicked] = useState<number | null>(null);
  const [cell, setCell] = useState<number | null>(null);
  useLayoutEffect(() => {
    const box = frame.current;
    if (!box) return;
    const watch = new ResizeObserver(() => setWidth(Math.max(box.clientWidth, 280)));
    watch.observe(box);
    return () => watch.disconnect();
  }, []);
  // The load pattern follows the chosen condition until another is picked.
  const own = windows.patterns.findIndex((p) => p.conditions.includes(condition));
  const index = picked ?? (own >= 0 ? own : windows.patterns.length - 1);
  const pattern = windows.patterns[index];
  const head = view.analysis.budget.conditions.find((c) => c.id === condition);
  const start = useMemo(() => {
    const rest = head && head.pack_rest_v > 0 ? head.pack_rest_v / view.plan.pack.series : undefined;
    return rest ?? windows.cell_v[0] ?? 4.2;
  }, [head, view.plan.pack.series, windows.cell_v]);
  if (!pattern) return <p>No condition connects the pack, so there is nothing to sweep.</p>;
  const now = cell ?? start;
  const narrow = width < NARROW_W;
  // At an instant of a run the mark stands where the pins are then, until the slider or another load is chosen.
  const instant = condition === INSTANT && cell === null && picked === null ? head : undefined;
  const pins = instant ? Object.fromEntries(view.analysis.budget.devices.map((one) => [one.id, one.states[INSTANT]?.pin_v ?? 0])) : null;
  return (
    <div ref={frame}>
      <p className="windows-lead">
        Box: what the device allows. Thick bar: what its pins see over all conditions. Rust mark:{" "}
        {instant ? `${instant.name} of the run; choose a load, or move the slider, for` : "at this cell voltage under the load of"}{" "}
        <Select
          size="small"
          value={index}
          onChange={setPicked}
          aria-label="Load pattern"
          options={windows.patterns.map((p, k) => ({ value: k, label: p.name }))}
          popupMatchSelectWidth={false}
        />
      </p>
      <div className={narrow ? "windows-sheet is-narrow" : "windows-sheet"}>
        <DeviceBars width={narrow ? width : width - SLIDER_W} pattern={pattern} cell={now} pins={pins} />
        <PackSlider pattern={pattern} cell={now} move={setCell} />
      </div>
      <Advice />
    </div>
  );
}
