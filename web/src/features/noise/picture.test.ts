import { expect, it } from "vitest";
import type { LineStandard } from "@/shared/api/types";
import { renderFrame, testFrame } from "./picture";

const STANDARDS: Record<"525" | "625", LineStandard> = {
  "525": { name: "525 lines", line_hz: 4.5e6 / 286, lines: 525, visible_lines: 486, active_s: 52.66e-6, picture_v: 0.714 },
  "625": { name: "625 lines", line_hz: 15625, lines: 625, visible_lines: 576, active_s: 52e-6, picture_v: 0.7 },
};

const flat = () => 0.5;

/** Column 0 of the first field, as luminance by line. */
function column(pixels: Float32Array, width: number, height: number): number[] {
  const found: number[] = [];
  for (let row = 0; row < height; row += 2) found.push(pixels[row * width] ?? 0);
  return found;
}

it("draws a known sine as bars of the computed pitch", () => {
  const standard = STANDARDS["625"];
  // 250 Hz above the third multiple of the line rate: 15 625/250 = 62.5 lines of a field between bars.
  const hz = 3 * standard.line_hz + 250;
  const pixels = renderFrame(standard, 8, standard.visible_lines, [{ hz, ppV: 0.14 }], 0, flat);
  const values = column(pixels, 8, standard.visible_lines).map((v) => v - 0.5);
  const crossings: number[] = [];
  values.forEach((v, k) => {
    const before = values[k - 1];
    if (before !== undefined && before < 0 && v >= 0) crossings.push(k - v / (v - before));
  });
  expect(crossings.length).toBeGreaterThan(2);
  const gaps = crossings.slice(1).map((c, k) => c - (crossings[k] ?? 0));
  for (const gap of gaps) expect(gap).toBeCloseTo(62.5, 0);
});

it("draws the computed contrast: peak to peak over black to white", () => {
  for (const standard of Object.values(STANDARDS)) {
    const pixels = renderFrame(standard, 64, standard.visible_lines, [{ hz: 777, ppV: 0.0714 }], 0, flat);
    expect(Math.max(...pixels) - Math.min(...pixels)).toBeCloseTo(0.0714 / standard.picture_v, 3);
  }
});

it("shifts with time as far as the frequency makes it, and a multiple of the field rate stands still", () => {
  const standard = STANDARDS["625"];
  const frame = standard.lines / standard.line_hz;
  const still = [0, 1].map((n) => renderFrame(standard, 4, 100, [{ hz: 100, ppV: 0.1 }], n * frame, flat));
  expect([...(still[1] ?? [])].every((v, k) => Math.abs(v - (still[0]?.[k] ?? 9)) < 1e-4)).toBe(true);
  const moving = [0, 1].map((n) => renderFrame(standard, 4, 100, [{ hz: 110, ppV: 0.1 }], n * frame, flat));
  expect([...(moving[1] ?? [])].some((v, k) => Math.abs(v - (moving[0]?.[k] ?? 9)) > 0.02)).toBe(true);
});

it("keeps the test frame where there is no interference", () => {
  const pixels = renderFrame(STANDARDS["525"], 16, 9, [], 0);
  expect(pixels[0]).toBeCloseTo(testFrame(0, 0));
});
