/** The map of ground heights: platforms, ribbons, signals, loops; a return's end can be dragged to another ground. */
import type { components } from "@/shared/api/schema";
import { shiftMark } from "@/shared/plan/marks";
import { useMemo, useRef } from "react";
import { elementName } from "@/shared/plan/elements";
import { elementMarks } from "@/shared/plan/marks";
import { useFindings } from "@/shared/plan/useNoise";
import { usePlanActions, usePlanState, useSelection } from "@/shared/plan/usePlan";
import { amps, si, volts } from "@/shared/ui/format";
import { glyph } from "@/shared/ui/marks";
import { depths, heightScale, place, ribbonPath, ribbonWidth, BOX_H, type Placed, type Standing } from "./heights";
import { useReturnDrag } from "./useReturnDrag";

type SignalState = components["schemas"]["SignalState"];

interface Props {
  width: number;
  height: number;
  condition: string;
}

const PACK: Standing = { id: "pack", name: "Pack −", board: true, volts: 0, depth: 0 };

export function GroundMap({ width, height, condition }: Props) {
  const { view } = usePlanState();
  const { selected } = useSelection();
  const { select } = usePlanActions();
  const svg = useRef<SVGSVGElement>(null);
  const { grounds, segments, loops, signals } = view.analysis.returns;
  const marks = elementMarks(useFindings(view), condition);
  const { placed, scale } = useMemo(() => {
    const depth = depths(
      grounds.map((g) => g.id),
      segments,
    );
    const standing: Standing[] = grounds.map((g) => ({
      id: g.id,
      name: g.name,
      board: g.kind === "board",
      volts: g.states[condition]?.volts_v ?? 0,
      depth: depth.get(g.id) ?? 1,
    }));
    const made = heightScale(
      standing.map((s) => s.volts),
      height,
    );
    const pack: Placed = { ...PACK, x: 12, y: made.y(0), labelY: made.y(0), width: 74 };
    return { placed: [pack, ...place(standing, made, width, height)], scale: made };
  }, [grounds, segments, condition, width, height]);
  const at = new Map(placed.map((p) => [p.id, p]));
  const drag = useReturnDrag(svg, placed, condition);
  const foot = (p: Placed) => ({ x: p.x, y: p.y });
  const head = (p: Placed) => ({ x: p.x + (p.id === "pack" ? p.width / 2 : p.width - 8), y: p.y });
  const video = new Set((view.plan.signals ?? []).filter((s) => s.kind === "video").map((s) => s.id));
  const drawn = signals.filter((s) => video.has(s.id) || selected === s.id || shiftMark(view.analysis.findings, s.id, condition) !== "ok");
  return (
    <>
      <svg
        ref={svg}
        className={drag.now ? "heights is-dragging" : "heights"}
        width={width}
        height={height}
        role="group"
        aria-label="Ground heights in millivolts"
      >
        {scale.ticks.map((tick) => (
          <g key={tick}>
            <line className="grid" x1={54} x2={width} y1={scale.y(tick)} y2={scale.y(tick)} />
            {tick !== 0 && (
              <text className="height-note" x={50} y={scale.y(tick) + 4} textAnchor="end">
                {si(tick, "V")}
              </text>
            )}
          </g>
        ))}
        {scale.broken && <path className="axis-break" d={`M 54 ${height - 36} l 8 -5 l 8 10 l 8 -5 H ${width}`} />}
        {loops.map((loop, index) => {
          const corners = loop.owners.map((o) => at.get(o)).filter((p) => p !== undefined);
          const on = selected !== null && (loop.wires.includes(selected) || loop.owners.includes(selected));
          const x = corners.reduce((sum, p) => sum + p.x + p.width / 2, 0) / Math.max(corners.length, 1);
          const y = corners.reduce((sum, p) => sum + p.y, 0) / Math.max(corners.length, 1);
          return (
            <g key={loop.id} className={on ? "loop is-on" : "loop"}>
              <path d={`M ${corners.map((p) => `${p.x + p.width / 2} ${p.y}`).join(" L ")} Z`} />
              {on && (
                <text x={x} y={y + index * 13} textAnchor="middle">
                  loop {(loop.area_m2 * 1e4).toFixed(0)} cm²
                </text>
              )}
            </g>
          );
        })}
        {segments.map((segment) => {
          const from = at.get(segment.owner);
          const to = at.get(segment.to);
          const state = segment.states[condition];
          if (!from || !to || !state) return null;
          const whose = state.carries.map((c) => `${elementName(view, c.element)} ${amps(Math.abs(c.amps_a))}`).join(", ");
          const label = `Return of ${from.name} to ${to.name}, ${amps(Math.abs(state.amps_a))}, ${volts(Math.abs(state.drop_v))}${segment.shared ? `, shared by ${whose}` : ""}`;
          const held = drag.now?.wire === segment.id;
          const end = held && drag.now ? { x: drag.now.x, y: drag.now.y } : head(to);
          const open = () => select(segment.id);
          return (
            <g key={segment.id} className={`ribbon ${selected === segment.id ? "is-selected" : ""} ${segment.shared ? "is-shared" : ""}`}>
              <path d={ribbonPath(foot(from), end)} style={{ strokeWidth: ribbonWidth(state.amps_a) }} />
              <path
                className="ribbon-hit"
                d={ribbonPath(foot(from), end)}
                role="button"
                tabIndex={0}
                aria-label={label}
                onClick={open}
                onKeyDown={(event) => event.key === "Enter" && open()}
              >
                <title>{label}</title>
              </path>
            </g>
          );
        })}
        {drawn.map((signal) => {
          const link = (view.plan.signals ?? []).find((s) => s.id === signal.id);
          const ends = [link?.source, link?.sink].map((end) => at.get(drag.ownerOf(end ?? "")));
          const [a, b] = ends;
          const state = signal.states[condition];
          if (!link || !a || !b || !state) return null;
          const kind = shiftMark(view.analysis.findings, signal.id, condition);
          const from = { x: a.x + a.width / 2, y: a.labelY };
          const to = { x: b.x + b.width / 2, y: b.labelY };
          const words = landsOn(link.name, video.has(signal.id), state, signal.margin_v);
          return (
            <g
              key={signal.id}
              className={`wave wave-${kind} ${selected === signal.id ? "is-selected" : ""}`}
              role="button"
              tabIndex={0}
              aria-label={words}
              onClick={() => select(signal.id)}
              onKeyDown={(event) => event.key === "Enter" && select(signal.id)}
            >
              <line x1={from.x} y1={from.y} x2={to.x} y2={to.y} />
              <line className="wave-hit" x1={from.x} y1={from.y} x2={to.x} y2={to.y} />
            </g>
          );
        })}
        {placed
          .filter((p) => p.labelY !== p.y)
          .map((p) => (
            <path key={p.id} className="leader" d={`M ${p.x - 7} ${p.y} h 7 M ${p.x - 3} ${p.y} L ${p.x} ${p.labelY}`} />
          ))}
        {placed.map((p) => (
          <Platform
            key={p.id}
            p={p}
            mark={marks.get(p.id)}
            target={drag.now?.target === p.id}
            selected={selected === p.id}
            open={() => select(p.id)}
            step={grounds.find((g) => g.id === p.id)?.states[condition]?.step_v ?? 0}
          />
        ))}
        {segments
          .filter((segment) => segment.shared && selected === segment.id && (view.plan.devices ?? []).some((d) => d.id === segment.owner))
          .map((segment) => {
            const [from, to] = [at.get(segment.owner), at.get(segment.to)];
            const carries = segment.states[condition]?.carries ?? [];
            if (!from || !to || carries.length < 2) return null;
            return (
              <text key={segment.id} className="shared-words" x={(foot(from).x + head(to).x) / 2} y={(from.y + to.y) / 2} textAnchor="middle">
                shared by {carries.length}
              </text>
            );
          })}
        {segments.map((segment) => {
          const from = at.get(segment.owner);
          const to = at.get(segment.to);
          if (!from || !to || drag.now?.wire === segment.id) return null;
          const grip = head(to);
          const offset = drag.gripOffset(segment.id);
          return (
            <circle
              key={segment.id}
              className="grip"
              cx={grip.x + offset}
              cy={to.labelY + (to.id === "pack" ? 6 : BOX_H / 2 + 2)}
              r={4.5}
              onPointerDown={(event) => drag.grab(segment.id, event.nativeEvent)}
            />
          );
        })}
        {drag.now && (
          <g className="drag-words">
            <text x={Math.min(drag.now.x + 14, width - 260)} y={Math.max(drag.now.y - 12, 16)}>
              {drag.now.words}
            </text>
          </g>
        )}
      </svg>
      <ul className="wave-list" aria-label="What lands on the signals">
        {drawn.map((signal) => {
          const state = signal.states[condition];
          if (!state) return null;
          const kind = shiftMark(view.analysis.findings, signal.id, condition);
          return (
            <li key={signal.id} className={`wave-text-${kind}`}>
              {glyph(kind)} {landsOn(elementName(view, signal.id), video.has(signal.id), state, signal.margin_v)}
            </li>
          );
        })}
      </ul>
    </>
  );
}

/** A clamped video input takes the steady part off: only what changes is held against the margin. */
function landsOn(name: string, video: boolean, state: SignalState, margin_v: number): string {
  const steady = volts(Math.abs(state.shift_v));
  return video
    ? `${name}: ${steady} steady, ${volts(state.changing_v)} of ${volts(margin_v)} changing`
    : `${name}: ${volts(state.on_signal_v)} of ${volts(margin_v)}`;
}

interface PlatformProps {
  p: Placed;
  mark: ReturnType<ReturnType<typeof elementMarks>["get"]>;
  target: boolean;
  selected: boolean;
  open: () => void;
  step: number;
}

function Platform({ p, mark, target, selected, open, step }: PlatformProps) {
  const { condition } = useSelection();
  const { showWorking } = usePlanActions();
  const room = mark && mark !== "ok" ? 17 : 20;
  const name = p.name.length > room ? `${p.name.slice(0, room - 1)}…` : p.name;
  const label = `${p.name}, ground ${p.id === "pack" ? "reference" : volts(p.volts)}${step > 5e-4 ? `, ${volts(step)} more at an edge` : ""}`;
  const bad = mark === "danger" || mark === "fault" || mark === "caution" ? `platform-${mark}` : "";
  const work = () => p.id !== "pack" && showWorking({ element: p.id, quantity: "ground", condition });
  return (
    <g className={`platform ${p.board ? "is-board" : ""} ${bad} ${selected ? "is-selected" : ""} ${target ? "is-target" : ""}`}>
      <rect
        role="button"
        tabIndex={0}
        aria-label={label}
        onClick={open}
        onKeyDown={(event) => event.key === "Enter" && open()}
        x={p.x}
        y={p.labelY - BOX_H / 2}
        width={p.width}
        height={p.id === "pack" ? 22 : BOX_H}
      />
      <text className="platform-name" x={p.x + 6} y={p.labelY - 3}>
        {mark && mark !== "ok" ? `${glyph(mark)} ` : ""}
        {name}
      </text>
      {p.id !== "pack" && (
        <text className="platform-volts has-working" x={p.x + 6} y={p.labelY + 12} onClick={work}>
          {volts(p.volts)}
          {step > 5e-4 ? ` +${volts(step)} edge` : ""}
        </text>
      )}
    </g>
  );
}
