/** Pure geometry of ground heights: where each ground stands, and how its returns and signals run. */

export interface Standing {
  id: string;
  name: string;
  board: boolean;
  volts: number;
  /** Steps of return wire from the pack. */
  depth: number;
}

export interface Placed extends Standing {
  x: number;
  /** Height of the ground itself. */
  y: number;
  /** Where its label stands; the same as `y` unless it had to give way. */
  labelY: number;
  width: number;
}

export interface Scale {
  low: number;
  high: number;
  /** The axis leaves out what lies between the pack and the lowest ground. */
  broken: boolean;
  y: (volts: number) => number;
  ticks: number[];
}

export const BOX_W = 134;
export const BOX_H = 34;
const BOX_GAP = 3;
/** What a lane to the right, or to the left of its own, costs a label, in pixels it may shift instead. */
const AWAY = 5;
const BACKWARD = 40;
const LANE_GAP = 10;
const LEFT = 64;
const TOP = 26;
const PACK_ROOM = 46;

/** A height scale in volts: linear over the grounds, broken above the pack where they all stand far up. */
export function heightScale(volts: number[], height: number): Scale {
  const most = Math.max(...volts, 1e-3);
  const least = Math.min(...volts, most);
  const broken = least > 0.3 * most;
  const margin = Math.max(most - least, 2e-3) * 0.06;
  const low = broken ? least - margin : Math.min(least, 0);
  const high = most + margin;
  const bottom = broken ? height - PACK_ROOM : height - 20;
  const y = (v: number) => (broken && v <= 0 ? height - 14 : bottom - ((v - low) / (high - low)) * (bottom - TOP));
  const step = niceStep((high - low) / 5);
  const ticks: number[] = [];
  for (let v = Math.ceil(low / step) * step; v <= high; v += step) ticks.push(v);
  return { low, high, broken, y, ticks };
}

export function niceStep(rough: number): number {
  const power = 10 ** Math.floor(Math.log10(Math.max(rough, 1e-9)));
  return power * ([1, 2, 5, 10].find((one) => one * power >= rough) ?? 10);
}

/** Steps of return wire from the pack to every ground; what hangs on nothing stands at the far end. */
export function depths(owners: string[], returns: { owner: string; to: string }[]): Map<string, number> {
  const found = new Map<string, number>([["pack", 0]]);
  let changed = true;
  while (changed) {
    changed = false;
    for (const { owner, to } of returns) {
      const under = found.get(to);
      if (under !== undefined && (found.get(owner) ?? Number.POSITIVE_INFINITY) > under + 1) {
        found.set(owner, under + 1);
        changed = true;
      }
    }
  }
  const deepest = Math.max(...found.values());
  return new Map(owners.map((id) => [id, found.get(id) ?? deepest + 1]));
}

/** Put every ground into a lane near its depth, at its height where there is room, labels never over each other. */
export function place(grounds: Standing[], scale: Scale, width: number, height: number): Placed[] {
  const lanes = Math.max(2, Math.floor((width - LEFT + LANE_GAP) / (BOX_W + LANE_GAP)));
  const taken: [number, number][][] = Array.from({ length: lanes }, () => []);
  const placed: Placed[] = [];
  const free = (lane: number, y: number) => (taken[lane] ?? []).every(([a, b]) => y + BOX_H / 2 + BOX_GAP <= a || y - BOX_H / 2 - BOX_GAP >= b);
  // Boards first, so that they stand where they are; then devices, the highest first.
  const order = [...grounds].sort((a, b) => Number(b.board) - Number(a.board) || (a.board ? a.depth - b.depth : b.volts - a.volts));
  for (const ground of order) {
    const y = scale.y(ground.volts);
    const own = Math.min(Math.max(ground.depth - 1, 0), lanes - 1);
    let best: { lane: number; labelY: number; cost: number } | null = null;
    for (let lane = 0; lane < lanes; lane += 1) {
      const aside = lane >= own ? (lane - own) * AWAY : (own - lane) * BACKWARD;
      for (let shift = 0; shift <= height && aside + shift < (best?.cost ?? Number.POSITIVE_INFINITY); shift += 4) {
        const labelY = [y - shift, y + shift].find((one) => one >= TOP - 6 && one <= height - BOX_H / 2 - 4 && free(lane, one));
        if (labelY !== undefined) best = { lane, labelY, cost: aside + shift };
      }
    }
    const { lane, labelY } = best ?? { lane: own, labelY: y };
    taken[lane]?.push([labelY - BOX_H / 2, labelY + BOX_H / 2]);
    placed.push({ ...ground, x: LEFT + lane * (BOX_W + LANE_GAP), y, labelY, width: BOX_W });
  }
  return placed;
}

/** A ribbon as wide as its current, drawn from a ground down to where its return goes. */
export function ribbonWidth(amps: number): number {
  return Math.min(1.4 + 1.5 * Math.sqrt(Math.abs(amps)), 15);
}

export function ribbonPath(from: { x: number; y: number }, to: { x: number; y: number }): string {
  const middle = (from.x + to.x) / 2;
  return `M ${from.x} ${from.y} C ${middle} ${from.y}, ${middle} ${to.y}, ${to.x} ${to.y}`;
}
