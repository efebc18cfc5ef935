/** Ground heights with the schools beneath. */
import { shownIn } from "@/shared/plan/marks";
import { useLayoutEffect, useRef, useState } from "react";
import { elementName } from "@/shared/plan/elements";
import { usePlanState, useSelection } from "@/shared/plan/usePlan";
import { si } from "@/shared/ui/format";
import { GroundMap } from "./GroundMap";
import { Schools } from "./Schools";

export function HeightsSheet() {
  const { view } = usePlanState();
  const { condition } = useSelection();
  const box = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(820);
  useLayoutEffect(() => {
    if (!box.current) return;
    const fit = (wide: number) => setWidth(Math.max(wide, 560));
    fit(box.current.clientWidth); // before the first paint: a narrow screen must not scroll sideways, however briefly
    const watch = new ResizeObserver(([entry]) => entry && fit(entry.contentRect.width));
    watch.observe(box.current);
    return () => watch.disconnect();
  }, []);
  const shown = shownIn(view.analysis.returns, condition);
  const { loops } = view.analysis.returns;
  return (
    <>
      <p className="grounds-lead">
        Height is the millivolts of a ground above the pack’s negative in “{elementName(view, shown)}”. Width is current. Two parts that talk should stand
        level: a dashed line is a signal, its slope the shift that lands on it. Drag the end of a return to another ground, or choose it in its ticket.
      </p>
      <div ref={box} className="ground-map">
        <GroundMap width={width} height={view.analysis.returns.grounds.length > 12 ? 450 : 380} condition={shown} />
      </div>
      {loops.length > 0 && (
        <p className="grounds-lead">
          Loops:{" "}
          {loops
            .map(
              (l) =>
                `${l.owners.map((o) => elementName(view, o)).join(" – ")} (${(l.area_m2 * 1e4).toFixed(0)} cm², ${si(l.ohm, "Ω")}, ${si(l.henry_h, "H")}, ${si(Math.max(...Object.values(l.noise_a)), "A")} driven at worst)`,
            )
            .join("; ")}
        </p>
      )}
      <Schools />
    </>
  );
}
