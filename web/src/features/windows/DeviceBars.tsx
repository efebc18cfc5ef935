/** One bar per device: allowed window, span seen over all conditions, and the volts at the slider's cell voltage. */
import { useMemo } from "react";
import type { DeviceAnswer, PlanView, Windows } from "@/shared/api/types";
import { INSTANT } from "@/shared/plan/instant";
import { elementName } from "@/shared/plan/elements";
import { usePlanActions, usePlanState, useSelection } from "@/shared/plan/usePlan";
import { railTitle, volts } from "@/shared/ui/format";
import { glyph, worst, type MarkKind } from "@/shared/ui/marks";
import { at, voltAxis } from "./scale";

type Pattern = Windows["patterns"][number];

const NAME_W = 160;
const WORDS_W = 118;
const ROW_H = 33;
const TOP = 30;
const MARK: Record<string, MarkKind> = { ok: "ok", off: "ok", dead: "ok", low: "caution", reset: "fault", high: "danger" };

export function DeviceBars({ width, pattern, cell, pins }: { width: number; pattern: Pattern; cell: number; pins: Record<string, number> | null }) {
  const { view } = usePlanState();
  const { selected } = useSelection();
  const { select } = usePlanActions();
  const devices = view.analysis.budget.devices;
  const { windows } = view.analysis;
  const axis = useMemo(
    () => voltAxis(devices.flatMap((d) => [d.min_v, d.max_v, d.seen_min_v ?? 0, d.seen_max_v ?? 0]), NAME_W + 34, width - WORDS_W - 24),
    [devices, width],
  );
  const height = TOP + devices.length * ROW_H + 8;
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
        const y = TOP + row * ROW_H;
        const now = pins ? (pins[device.id] ?? 0) : at(windows.cell_v, pattern.pins_v[device.id], cell);
        const own = Object.entries(device.states).filter(([id]) => id !== INSTANT);
        const states = own.map(([, state]) => state);
        const mark = worst(states.map((s) => MARK[s.verdict] ?? "ok"));
        const dead = states.some((s, k) => s.verdict === "dead" && onPack(view, own[k]?.[0] ?? ""));
        const kind: MarkKind = dead && mark === "ok" ? "fault" : mark;
        const nowBad = now > 0.5 && (now < device.reset_v || now > device.max_v);
        const seen = device.seen_min_v !== null && device.seen_min_v !== undefined && device.seen_max_v !== null && device.seen_max_v !== undefined;
        const words = dead ? "dead on the pack" : seen && kind !== "ok" ? trouble(device) : "";
        const open = () => select(device.id);
        return (
          <g key={device.id} className={`bar ${selected === device.id ? "is-selected" : ""}`} onClick={open}>
            <rect
              className="hit"
              x={0}
              y={y}
              width={width}
              height={ROW_H}
              role="button"
              tabIndex={0}
              aria-label={`${device.name}, allowed ${device.min_v} to ${device.max_v} volts, now ${volts(now)}${words ? `, ${words}` : ""}`}
              onKeyDown={(event) => event.key === "Enter" && open()}
            />
            <text x={10} y={y + 14} className={kind === "ok" ? "bar-name" : `bar-name mark-${kind}`}>
              {glyph(kind)} {device.name}
            </text>
            <text x={24} y={y + 27} className="bar-note">
              {railName(device.rail)}
            </text>
            <rect className="allowed" x={axis.x(device.min_v)} y={y + 3} width={axis.x(device.max_v) - axis.x(device.min_v)} height={20} />
            <line className="reset" x1={axis.x(device.reset_v)} x2={axis.x(device.reset_v)} y1={y + 3} y2={y + 23} />
            <text className="bar-note" x={Math.min(...[device.min_v, device.reset_v, seen ? (device.seen_min_v ?? device.min_v) : device.min_v].map(axis.x)) - 4} y={y + 17} textAnchor="end">
              {device.min_v}
            </text>
            <text className="bar-note" x={Math.max(axis.x(device.max_v), seen ? Math.max(axis.x(device.seen_max_v ?? 0), axis.x(device.seen_min_v ?? 0) + 4) : 0) + 4} y={y + 17}>
              {device.max_v}
            </text>
            {seen && (
              <rect
                className={kind === "ok" ? "seen" : "seen seen-bad"}
                x={axis.x(device.seen_min_v ?? 0)}
                y={y + 8}
                width={Math.max(axis.x(device.seen_max_v ?? 0) - axis.x(device.seen_min_v ?? 0), 4)}
                height={10}
              />
            )}
            {now > 0.5 && <path className={nowBad ? "now now-bad" : "now"} d={`M ${axis.x(now)} ${y + 1} l -5 -5 h 10 Z M ${axis.x(now)} ${y + 1} v 24`} />}
            {words && (
              <text className="bar-words" x={width - WORDS_W} y={y + 14}>
                {words}
              </text>
            )}
            {words && !dead && (
              <text className="bar-note" x={width - WORDS_W} y={y + 27}>
                in {conditionOf(view, device)}
              </text>
            )}
          </g>
        );
      })}
    </svg>
  );
}

/** Whether it sees too many volts in any of the plan's conditions, as the answer judged it. */
function isHigh(device: DeviceAnswer): boolean {
  return Object.entries(device.states).some(([id, state]) => id !== INSTANT && state.verdict === "high");
}

/** The condition in which the device sees the volts that trouble it. */
function conditionOf(view: PlanView, device: DeviceAnswer): string {
  const high = isHigh(device);
  const live = Object.entries(device.states).filter(([id, s]) => id !== INSTANT && s.verdict !== "off" && s.verdict !== "dead");
  const worst_ = live.sort(([, a], [, b]) => (high ? b.pin_v - a.pin_v : a.pin_v - b.pin_v))[0];
  return worst_ ? elementName(view, worst_[0]) : "";
}

function trouble(device: DeviceAnswer): string {
  return isHigh(device) ? `sees ${volts(device.seen_max_v)}` : `falls to ${volts(device.seen_min_v)}`;
}

function onPack(view: PlanView, condition: string): boolean {
  return (view.plan.conditions ?? []).find((c) => c.id === condition)?.energy?.includes("pack") ?? true;
}
