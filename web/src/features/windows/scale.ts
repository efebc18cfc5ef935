/** Pure geometry of the windows view: a logarithmic volts axis, and reading the sweep between its points. */

import type { DeviceState, Windows } from "@/shared/api/types";

type VerdictSpan = NonNullable<Windows["patterns"][number]["lives"][string]>[number];

export interface VoltAxis {
  x: (volts: number) => number;
  ticks: number[];
}

const NICE = [1, 2, 3, 3.3, 4, 5, 6, 7, 9, 12, 16, 20, 25, 35, 50, 70];
const TICK_GAP = 34;
/** Below this a supply is down; how far down tells nothing more. */
const FLOOR_V = 2;

/** A logarithmic axis over all the given volts, from `left` to `right` pixels. */
export function voltAxis(values: number[], left: number, right: number): VoltAxis {
  const live = values.filter((v) => v >= FLOOR_V);
  const low = Math.min(...live, 3) * 0.9; // what falls lower is drawn to the left end
  const high = Math.max(...live, 5) * 1.04;
  const span = Math.log(high / low);
  const x = (volts: number) => left + (Math.log(Math.min(Math.max(volts, low), high) / low) / span) * (right - left);
  const ticks: number[] = [];
  for (const one of NICE) {
    if (one < low || one > high) continue;
    const last = ticks.at(-1);
    if (last === undefined || x(one) - x(last) >= TICK_GAP) ticks.push(one);
  }
  return { x, ticks };
}

/** Value of a sweep at a cell voltage, straight lines between its points. `cells` falls from full to floor. */
export function at(cells: number[], values: number[] | undefined, cell: number): number {
  if (!values || values.length === 0) return 0;
  for (let k = 1; k < cells.length; k += 1) {
    const [from, to] = [cells[k - 1] ?? 0, cells[k] ?? 0];
    if (cell >= to) {
      const share = from === to ? 0 : (from - cell) / (from - to);
      return (values[k - 1] ?? 0) + ((values[k] ?? 0) - (values[k - 1] ?? 0)) * Math.min(Math.max(share, 0), 1);
    }
  }
  return values.at(-1) ?? 0;
}

/** The verdict that holds at a cell voltage; spans fall from full to floor, each down to where the next begins. */
export function livesAt(spans: VerdictSpan[] | undefined, cell: number): DeviceState["verdict"] {
  return spans?.findLast((one) => cell <= one.cell_v)?.verdict ?? spans?.[0]?.verdict ?? "ok";
}

/** Spread labels so that neighbours are `gap` apart, moving them as little as order allows. */
export function spreadLabels(wanted: number[], gap: number, top: number, bottom: number): number[] {
  const order = wanted.map((y, index) => ({ y, index })).sort((a, b) => a.y - b.y);
  let last = top - gap;
  for (const one of order) last = one.y = Math.max(one.y, last + gap);
  let next = bottom + gap;
  for (const one of [...order].reverse()) next = one.y = Math.min(one.y, next - gap);
  const placed = new Array<number>(wanted.length).fill(0);
  for (const one of order) placed[one.index] = one.y;
  return placed;
}
