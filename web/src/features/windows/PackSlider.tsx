/** The pack from full to floor: drag, arrow keys, and the cell voltages at which something changes. */
import { useRef } from "react";
import type { Windows } from "@/shared/api/types";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { volts } from "@/shared/ui/format";
import { at, spreadLabels } from "./scale";

const HEIGHT = 420;
const TOP = 26;
const BOTTOM = HEIGHT - 14;
const X = 62;
const BAR_W = 26;
const STEP_V = 0.02;

interface Props {
  pattern: Windows["patterns"][number];
  cell: number;
  move: (cell: number) => void;
}

export function PackSlider({ pattern, cell, move }: Props) {
  const { view } = usePlanState();
  const { select } = usePlanActions();
  const { windows } = view.analysis;
  const svg = useRef<SVGSVGElement>(null);
  const full = windows.cell_v[0] ?? 4.2;
  const floor = windows.cell_v.at(-1) ?? 3;
  const y = (volts_: number) => TOP + ((full - volts_) / (full - floor)) * (BOTTOM - TOP);
  const clamp = (volts_: number) => Math.min(Math.max(volts_, floor), full);
  const drag = (clientY: number) => {
    const box = svg.current?.getBoundingClientRect();
    if (box) move(clamp(full - ((clientY - box.top - TOP) / (BOTTOM - TOP)) * (full - floor)));
  };
  const events = windows.events;
  const labels = spreadLabels(
    events.map((e) => y(e.cell_v)),
    31,
    TOP,
    BOTTOM - 10,
  );
  const pack = at(windows.cell_v, pattern.rails_v[view.plan.pack.rail], cell);
  return (
    <svg ref={svg} className="pack" width={280} height={HEIGHT} aria-label="Pack, full to floor">
      <text x={X - 40} y={12} className="pack-title">
        {cell.toFixed(2)} V a cell · {volts(pack)} at the board
      </text>
      {[0, 0.25, 0.5, 0.75, 1].map((share) => {
        const v = full - share * (full - floor);
        return (
          <text key={share} className="bar-note" x={X - 8} y={y(v) + 4} textAnchor="end">
            {v.toFixed(2)}
          </text>
        );
      })}
      <g
        role="slider"
        tabIndex={0}
        aria-label="Rest voltage of a cell"
        aria-valuemin={floor}
        aria-valuemax={full}
        aria-valuenow={Number(cell.toFixed(2))}
        aria-valuetext={`${cell.toFixed(2)} volts a cell`}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          drag(event.clientY);
        }}
        onPointerMove={(event) => event.buttons > 0 && drag(event.clientY)}
        onKeyDown={(event) => {
          const step = { ArrowUp: STEP_V, ArrowRight: STEP_V, ArrowDown: -STEP_V, ArrowLeft: -STEP_V, PageUp: 0.1, PageDown: -0.1 }[event.key];
          if (step) move(clamp(cell + step));
          else if (event.key === "Home") move(full);
          else if (event.key === "End") move(floor);
          else return;
          event.preventDefault();
        }}
      >
        <rect className="pack-box" x={X} y={TOP} width={BAR_W} height={BOTTOM - TOP} />
        <rect className="pack-fill" x={X + 2} y={y(cell)} width={BAR_W - 4} height={Math.max(BOTTOM - y(cell) - 2, 0)} />
        <path className="pack-hand" d={`M ${X - 2} ${y(cell)} l -9 -6 v 12 Z M ${X + BAR_W + 2} ${y(cell)} l 9 -6 v 12 Z`} />
      </g>
      {events.map((event, k) => {
        const bad = event.kind !== "leaves";
        return (
          <g
            key={`${event.kind}${event.element}`}
            className={bad ? "pack-event pack-event-bad" : "pack-event"}
            role="button"
            tabIndex={0}
            onClick={() => select(event.element)}
            onKeyDown={(e) => e.key === "Enter" && select(event.element)}
          >
            <path d={`M ${X + BAR_W + 2} ${y(event.cell_v)} h 8 L ${X + BAR_W + 22} ${labels[k] ?? 0}`} />
            <foreignObject x={X + BAR_W + 26} y={(labels[k] ?? 0) - 15} width={166} height={32}>
              <div className="pack-words">
                <strong>{event.cell_v.toFixed(2)}</strong> {view.analysis.captions.events[k]}
              </div>
            </foreignObject>
          </g>
        );
      })}
      {events.length === 0 && (
        <foreignObject x={X + BAR_W + 20} y={TOP} width={170} height={90}>
          <div className="pack-words">Nothing resets and every regulator holds from full to floor.</div>
        </foreignObject>
      )}
    </svg>
  );
}
