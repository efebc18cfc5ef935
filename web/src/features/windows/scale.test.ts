import { expect, it } from "vitest";
import { at, spreadLabels, voltAxis } from "./scale";

it("keeps order and gaps of ticks", () => {
  const axis = voltAxis([3.3, 5, 12, 25.2], 200, 600);
  expect(axis.x(25.2)).toBeLessThan(600);
  expect(axis.x(3)).toBeGreaterThan(200);
  axis.ticks.slice(1).forEach((tick, k) => expect(axis.x(tick) - axis.x(axis.ticks[k] ?? 0)).toBeGreaterThanOrEqual(34));
});

it("reads between the points of a falling sweep", () => {
  const cells = [4.2, 3.6, 3.0];
  expect(at(cells, [25, 21, 17], 3.9)).toBeCloseTo(23);
  expect(at(cells, [25, 21, 17], 4.2)).toBe(25);
  expect(at(cells, [25, 21, 17], 3.0)).toBe(17);
  expect(at(cells, undefined, 3.3)).toBe(0);
});

it("spreads labels apart and keeps them on the picture", () => {
  const placed = spreadLabels([100, 102, 104, 300, 301], 16, 20, 310);
  const sorted = [...placed].sort((a, b) => a - b);
  sorted.slice(1).forEach((y, k) => expect(y - (sorted[k] ?? 0)).toBeGreaterThanOrEqual(16));
  expect(Math.max(...placed)).toBeLessThanOrEqual(310);
  expect(placed[0]).toBeLessThan(placed[1] ?? 0);
});
