/** One bar per device: allowed window, span seen over all conditions, and the volts at the slider's cell voltage. */
import { useMemo } from "react";
import type { DeviceState, Windows } from "@/shared/api/types";
import { INSTANT } from "@/shared/plan/instant";
import { elementName } from "@/shared/plan/elements";
import { usePlanActions, usePlanState, useSelection } from "@/shared/plan/usePlan";
import { railTitle, volts } from "@/shared/ui/format";
import { glyph, type MarkKind } from "@/shared/ui/marks";
import { at, livesAt, voltAxis } from "./scale";

type Pattern = Windows["patterns"][number];

const NAME_W = 160;
const WORDS_W = 118;
const ROW_H = 33;
/** Below this the name and what troubles it stand over the bar, which takes the whole width. */
const COMPACT_W = 480;
const COMPACT_ROW_H = 52;
const TOP = 30;
const NOW: Record<DeviceState["verdict"], string> = {
  ok: "",
  off: "",
  dead: "",
  low: ", below its window",
  reset: ", resets",
  high: ", too high",
  unknown: ", not known",
};

export function DeviceBars({ width, pattern, cell, pins }: { width: number; pattern: Pattern; cell: number; pins: Record<string, number> | null }) {
  const { view } = usePlanState();
  const { selected } = useSelection();
  const { select } = usePlanActions();
  const devices = view.analysis.budget.devices;
  const { windows } = view.analysis;
  const compact = width < COMPACT_W;
  const rowH = compact ? COMPACT_ROW_H : ROW_H;
  const [left, right] = compact ? [40, width - 44] : [NAME_W + 34, width - WORDS_W - 24];
  const axis = useMemo(
    () =>
      voltAxis(
        devices.flatMap((d) => [d.min_v, d.max_v, d.seen_min_v ?? 0, d.seen_max_v ?? 0]),
        left,
        right,
      ),
    [devices, left, right],
  );
  const height = TOP + devices.length * rowH + 8;
  const railName = (id: string | null | undefined) => (id ? `on ${railTitle(view.plan.rails.find((r) => r.id === id)?.name ?? id)}` : "not fed");
  return (
    <svg className="bars" width={width} height={height} role="group" aria-label="Allowed volts against seen volts">
      {axis.ticks.map((tick) => (
        <g key={tick}>
          <line className="grid" x1={axis.x(tick)} x2={axis.x(tick)} y1={20} y2={height} />
          <text className="bar-note" x={axis.x(tick)} y={14} textAnchor="middle">
            {tick} V
          </text>
        </g>
      ))}
      {devices.map((device, row) => {
        const y = TOP + row * rowH;
        const bar = compact ? y + 18 : y;
        const now = pins ? (pins[device.id] ?? 0) : at(windows.cell_v, pattern.pins_v[device.id], cell);
        const lives = pins ? (device.states[INSTANT]?.verdict ?? "ok") : livesAt(pattern.lives[device.id], cell);
        const nowBad = NOW[lives] !== "";
        const worst = device.worst ? device.states[device.worst] : undefined;
        const kind: MarkKind = worst?.weight ?? "ok";
        const seen = device.seen_min_v !== null && device.seen_min_v !== undefined && device.seen_max_v !== null && device.seen_max_v !== undefined;
        const words = worst ? trouble(worst) : "";
        const open = () => select(device.id);
        return (
          <g key={device.id} className={`bar ${selected === device.id ? "is-selected" : ""}`} onClick={open}>
            <rect
              className="hit"
              x={0}
              y={y}
              width={width}
              height={rowH}
              role="button"
              tabIndex={0}
              aria-label={`${device.name}, allowed ${device.min_v} to ${device.max_v} volts, now ${volts(now)}${NOW[lives]}${words ? `, ${words}` : ""}`}
              onKeyDown={(event) => event.key === "Enter" && open()}
            />
            <text x={10} y={y + 14} className={kind === "ok" ? "bar-name" : `bar-name mark-${kind}`}>
              {glyph(kind)} {device.name}
            </text>
            {!compact && (
              <text x={24} y={y + 27} className="bar-note">
                {railName(device.rail)}
              </text>
            )}
            <rect className="allowed" x={axis.x(device.min_v)} y={bar + 3} width={axis.x(device.max_v) - axis.x(device.min_v)} height={20} />
            <line className="reset" x1={axis.x(device.reset_v)} x2={axis.x(device.reset_v)} y1={bar + 3} y2={bar + 23} />
            <text
              className="bar-note"
              x={Math.min(...[device.min_v, device.reset_v, seen ? (device.seen_min_v ?? device.min_v) : device.min_v].map(axis.x)) - 4}
              y={bar + 17}
              textAnchor="end"
            >
              {device.min_v}
            </text>
            <text
              className="bar-note"
              x={Math.max(axis.x(device.max_v), seen ? Math.max(axis.x(device.seen_max_v ?? 0), axis.x(device.seen_min_v ?? 0) + 4) : 0) + 4}
              y={bar + 17}
            >
              {device.max_v}
            </text>
            {seen && (
              <rect
                className={kind === "ok" ? "seen" : "seen seen-bad"}
                x={axis.x(device.seen_min_v ?? 0)}
                y={bar + 8}
                width={Math.max(axis.x(device.seen_max_v ?? 0) - axis.x(device.seen_min_v ?? 0), 4)}
                height={10}
              />
            )}
            {now > 0.5 && <path className={nowBad ? "now now-bad" : "now"} d={`M ${axis.x(now)} ${bar + 1} l -5 -5 h 10 Z M ${axis.x(now)} ${bar + 1} v 24`} />}
            {words && (
              <text className="bar-words" x={compact ? width - 6 : width - WORDS_W} y={y + 14} textAnchor={compact ? "end" : "start"}>
                {words}
              </text>
            )}
            {device.worst && !compact && (
              <text className="bar-note" x={width - WORDS_W} y={y + 27}>
                in {elementName(view, device.worst)}
              </text>
            )}
          </g>
        );
      })}
    </svg>
  );
}

/** What troubles a device in the condition that troubles it most. */
function trouble(state: DeviceState): string {
  if (state.verdict === "high") return `sees ${volts(state.pin_v)}`;
  return state.verdict === "dead" ? "gets nothing" : state.verdict === "unknown" ? "volts not known" : `falls to ${volts(state.pin_v)}`;
}
