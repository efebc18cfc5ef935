/** The rows in which layouts are told apart: each number in words, and which of them is best. */
import { si } from "@/shared/ui/format";
import type { Numbers } from "./useLayouts";

export interface Row {
  label: string;
  text: (one: Numbers) => string;
  /** Less is better. */
  value: (one: Numbers) => number;
  bad: (one: Numbers) => boolean;
}

const grams = (one: Numbers) => `${one.grams < 0 ? "−" : ""}${Math.abs(one.grams).toFixed(1)} g`;

export const ROWS: readonly Row[] = [
  { label: "dangers and faults", text: (n) => String(n.heavy), value: (n) => n.heavy, bad: (n) => n.heavy > 0 },
  { label: "parts added, grams", text: (n) => `${n.parts_added}, ${grams(n)}`, value: (n) => n.parts_added + n.grams / 1e4, bad: () => false },
  { label: "wires to solder", text: (n) => String(n.wires), value: (n) => n.wires, bad: () => false },
  { label: "least spare", text: (n) => `${si(n.least_spare_a, "A")} on ${n.spare_at}`, value: (n) => -n.least_spare_a, bad: (n) => n.least_spare_a < 0 },
  { label: "hottest regulator, still air", text: (n) => `${Math.round(n.hottest_c)} °C`, value: (n) => n.hottest_c, bad: (n) => n.hottest_c > 125 },
  {
    label: "picture, worst",
    text: (n) => (n.picture_db === null || n.picture_db === undefined ? "–" : `${Math.round(n.picture_db).toString().replace("-", "−")} dB`),
    value: (n) => n.picture_db ?? -200,
    bad: (n) => (n.picture_db ?? -200) > -30,
  },
  {
    label: "reset, numbers as wide as they are",
    text: (n) => (n.reset_chance < 0.001 ? "< 0.1 %" : `${(100 * n.reset_chance).toFixed(1)} %`),
    value: (n) => n.reset_chance,
    bad: (n) => n.reset_chance > 0.05,
  },
  { label: "nearest to a reset, plug and punch", text: (n) => n.dip, value: (n) => -(n.dip_room_frac ?? 0), bad: (n) => (n.dip_room_frac ?? 0) < 0 },
  {
    label: "one regulator fails",
    text: (n) => (n.control_lost ? `${n.failure}, control with them` : n.failure),
    value: (n) => (n.control_lost ? 1 : 0),
    bad: (n) => n.control_lost,
  },
];

/** Which columns are best at a row; none where all are the same. */
export function bestAt(row: Row, columns: readonly Numbers[]): boolean[] {
  const values = columns.map(row.value);
  const least = Math.min(...values);
  const same = values.every((value) => Math.abs(value - least) < 1e-6);
  return values.map((value) => !same && Math.abs(value - least) < 1e-6);
}
