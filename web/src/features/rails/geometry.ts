/** Pure geometry of the yard: where blocks, tracks, wagons, stops and labels go. Pixels; no React. */
import type { RailState, Consumer } from "@/shared/api/types";

export const BLOCK_W = 190;
export const INDENT = 26;
const LEFT = 10;
const GAP = 18;
const RIGHT_PAD = 92;
export const WAGON_H = 28;
const LABEL_H = 15;
const CHAR_W = 6.6;
const BOLD = 1.06;
const MARK_W = 14;
/** A wagon that leaves the others less than this share of the track is drawn broken. */
const DWARFED = 0.06;
const BROKEN_W = 170;
/** Widest ratio of print to need that still shows the printed tick to scale. */
const PRINT_SHOWN = 2.2;

export interface PlacedWagon {
  wagon: Consumer;
  x: number;
  width: number;
  broken: boolean;
  /** Inside the wagon, or above it at a level (1 is the nearest), with the label's own left edge. */
  label: { inside: boolean; level: number; x: number; text: string };
}

export interface Axis {
  /** Amps to pixels along this track, the break taken out. */
  at: (amps: number) => number;
  /** Amps one sleeper stands for. */
  sleeper_a: number;
  sleeper_px: number;
  broken: boolean;
}

export interface Track {
  x: number;
  width: number;
  axis: Axis;
  wagons: PlacedWagon[];
  stopX: number;
  printX: number | null;
  printBeyond: boolean;
  endX: number;
  levels: number;
}

export function blockX(depth: number): number {
  return LEFT + depth * INDENT;
}

export function trackX(depth: number): number {
  return blockX(depth) + BLOCK_W + GAP;
}

/** A round amount of amps near `target`: 1, 2 or 5 of a decade. */
export function roundAmps(target: number): number {
  const decade = 10 ** Math.floor(Math.log10(target));
  const lead = target / decade;
  return decade * (lead < 1.5 ? 1 : lead < 3.5 ? 2 : lead < 7.5 ? 5 : 10);
}

function axisFor(state: RailState, width: number): Axis {
  const [first] = state.consumers;
  const rest = state.asked_a - (first?.asked_a ?? 0);
  const broken = first !== undefined && rest > 0 && rest < DWARFED * first.asked_a;
  const cut = broken ? first.asked_a : 0;
  const room = broken ? width - BROKEN_W : width;
  const shown = Math.max(state.asked_a, state.usable_a);
  const print = state.printed_a <= shown * PRINT_SHOWN ? state.printed_a : shown;
  const span = Math.max(Math.max(shown, print) - cut, 1e-3);
  const scale = room / span;
  const at = (amps: number) => (broken ? (amps <= cut ? (BROKEN_W * amps) / cut : BROKEN_W + (amps - cut) * scale) : amps * scale);
  const sleeper_a = roundAmps(Math.max(9 / scale, 1e-4));
  return { at, sleeper_a, sleeper_px: sleeper_a * scale, broken };
}

/** Where everything on one track stands, `available` being the pixels of the whole picture. */
export function layTrack(state: RailState, depth: number, available: number, words: (wagon: Consumer) => string): Track {
  const x = trackX(depth);
  const width = Math.max(available - x - RIGHT_PAD, 120);
  const axis = axisFor(state, width);
  let sum = 0;
  const wagons = state.consumers
    .filter((wagon) => wagon.asked_a > 5e-4)
    .map((wagon, index): PlacedWagon => {
      const start = axis.at(sum);
      sum += wagon.asked_a;
      const length = Math.max(axis.at(sum) - start, 3);
      return { wagon, x: x + start, width: length, broken: axis.broken && index === 0, label: { inside: true, level: 0, x: x + start, text: words(wagon) } };
    });
  const levels = placeLabels(wagons, available);
  const stopX = x + axis.at(state.usable_a);
  const printFits = state.printed_a <= Math.max(state.asked_a, state.usable_a) * PRINT_SHOWN;
  const last = wagons.at(-1);
  return {
    x,
    width,
    axis,
    wagons,
    stopX,
    printX: state.printed_a > 0 ? (printFits ? x + axis.at(state.printed_a) : x + width) : null,
    printBeyond: !printFits,
    endX: Math.max(stopX, last ? last.x + last.width : x),
    levels,
  };
}

export function textWidth(text: string): number {
  return text.length * CHAR_W;
}

/** Room for a label that may be bold, with a mark before it. */
export function markedWidth(text: string): number {
  return textWidth(text) * BOLD + MARK_W;
}

/** Where the line from a wagon up to its label stands. */
export function leaderX(placed: PlacedWagon): number {
  return placed.x + Math.min(placed.width / 2, 6);
}

/**
 * Labels go inside wagons that hold them; the others are stacked above, from the right, never touching one another.
 * A label also ends before the leader of a higher one to its right; only at the picture's right edge, where labels are
 * pushed back, a leader may have to pass behind one.
 */
function placeLabels(wagons: PlacedWagon[], available: number): number {
  const rows: number[] = [];
  for (const placed of [...wagons].reverse()) {
    const width = markedWidth(placed.label.text);
    if (placed.width >= width + 14) {
      placed.label.x = placed.x + 7;
      continue;
    }
    const left = Math.max(Math.min(leaderX(placed), available - width - 8), 4);
    // Row r is free when this label ends before the leftmost label already in it begins.
    let level = rows.findIndex((taken) => left + width + 8 <= taken);
    if (level < 0) level = rows.length;
    rows[level] = left;
    for (let below = 0; below < level; below += 1) rows[below] = Math.min(rows[below] ?? left, leaderX(placed));
    placed.label = { ...placed.label, inside: false, level: level + 1, x: left };
  }
  return rows.length;
}

const BELOW = 36;

export function rowHeight(levels: number, block: number): number {
  return trackY(0, levels) + Math.max(WAGON_H + BELOW, block + 4);
}

export function trackY(rowTop: number, levels: number): number {
  return rowTop + Math.max(levels - 1, 0) * LABEL_H + 14;
}

export function labelY(top: number, level: number): number {
  return top - 6 - (level - 1) * LABEL_H;
}
