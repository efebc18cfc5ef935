/** Numbers as on the bench: mA under 1 A, mV under 1 V, three figures, by the rules of the core. */
import { NEVER_WITH, NOTHING, STEPS, UNSCALED } from "@/shared/api/constants";

export function si(value: number | null | undefined, unit: string): string {
  if (value === null || value === undefined || !Number.isFinite(value)) return "–";
  if (UNSCALED.includes(unit)) return `${Number(value.toPrecision(3))} ${unit}`.trim().replace("-", "−");
  const size = Math.abs(value);
  if (size < (NOTHING[unit] ?? 0)) return `0 ${unit}`;
  for (const [factor, prefix] of STEPS) {
    if (prefix !== "" && NEVER_WITH[unit]?.includes(prefix)) continue;
    if (size >= factor * 0.9995) return `${figures(value / factor)} ${prefix}${unit}`;
  }
  return `0 ${unit}`;
}

function figures(scaled: number): string {
  const size = Math.abs(scaled);
  return scaled.toFixed(size >= 99.95 ? 0 : size >= 9.995 ? 1 : 2).replace("-", "−");
}

export const amps = (value: number | null | undefined) => si(value, "A");
export const volts = (value: number | null | undefined) => si(value, "V");
export const celsius = (value: number | null | undefined) => (value === null || value === undefined ? "–" : `${Math.round(value)} °C`);
export const percent = (fraction: number) => `${Math.round(fraction * 100)} %`;

/** Decibels with a true minus sign; louder is written with a plus. */
export const decibels = (value: number) => `${value > 0 ? "+" : ""}${value.toFixed(1).replace("-", "−")} dB`;

export function seconds(value: number): string {
  return value >= 120 ? `${Math.round(value / 60)} min` : `${Math.round(value)} s`;
}

/** “1 wire”, “2 wires”. */
export function counted(count: number, one: string): string {
  return `${count} ${one}${count === 1 ? "" : "s"}`;
}

export function railTitle(name: string): string {
  return /rail$/i.test(name) ? name : `${name} rail`;
}

/** A draw as the builder would type it. */
export function drawText(draw: { value: number; unit: "A" | "W"; at_v?: number | null }): string {
  const trimmed = (value: number) => String(Number(value.toPrecision(4)));
  const head = draw.unit === "A" && draw.value < 1 && draw.value > 0 ? `${trimmed(draw.value * 1000)}mA` : `${trimmed(draw.value)}${draw.unit}`;
  return draw.at_v ? `${head}@${trimmed(draw.at_v)}V` : head;
}
