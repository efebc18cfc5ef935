/** Ground heights with the schools beneath. */
import { useEffect, useRef, useState } from "react";
import { elementName } from "@/shared/plan/look";
import { usePlan } from "@/shared/plan/usePlan";
import { si } from "@/shared/ui/format";
import { GroundMap } from "./GroundMap";
import { Schools } from "./Schools";
import { groundCondition } from "./reading";

export function HeightsSheet() {
  const { view, condition } = usePlan();
  const box = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(820);
  useEffect(() => {
    if (!box.current) return;
    const watch = new ResizeObserver(([entry]) => entry && setWidth(Math.max(entry.contentRect.width, 560)));
    watch.observe(box.current);
    return () => watch.disconnect();
  }, []);
  const shown = groundCondition(view, condition);
  const { loops } = view.analysis.returns;
  return (
    <>
      <p className="grounds-lead">
        Height is the millivolts of a ground above the pack’s negative in “{elementName(view, shown)}”. Width is current. Two parts that talk should stand level: a dashed line is a signal, its slope the
        shift that lands on it. Drag the end of a return to another ground, or choose it in its ticket.
      </p>
      <div ref={box} className="ground-map">
        <GroundMap width={width} height={view.analysis.returns.grounds.length > 12 ? 450 : 380} condition={shown} />
      </div>
      {loops.length > 0 && (
        <p className="grounds-lead">
          Loops:{" "}
          {loops
            .map((l) => `${l.owners.map((o) => elementName(view, o)).join(" – ")} (${(l.area_m2 * 1e4).toFixed(0)} cm², ${si(l.ohm, "Ω")}, ${si(l.henry_h, "H")}, ${si(Math.max(...Object.values(l.noise_a)), "A")} driven at worst)`)
            .join("; ")}
        </p>
      )}
      <Schools />
    </>
  );
}
