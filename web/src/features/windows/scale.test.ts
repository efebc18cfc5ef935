import { expect, it } from "vitest";
import { at, livesAt, spreadLabels, voltAxis } from "./scale";

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

it("keeps a verdict down to where the next begins", () => {
  const spans = [
    { cell_v: 4.2, verdict: "ok" as const },
    { cell_v: 3.5, verdict: "low" as const },
    { cell_v: 3.31, verdict: "reset" as const },
  ];
  expect([4.2, 3.51, 3.5, 3.32, 3.3, 3.0, 4.3].map((cell) => livesAt(spans, cell))).toEqual(["ok", "ok", "low", "low", "reset", "reset", "ok"]);
  expect(livesAt(undefined, 3.3)).toBe("ok");
});

it("spreads labels apart and keeps them on the picture", () => {
  const placed = spreadLabels([100, 102, 104, 300, 301], 16, 20, 310);
  const sorted = [...placed].sort((a, b) => a - b);
  sorted.slice(1).forEach((y, k) => expect(y - (sorted[k] ?? 0)).toBeGreaterThanOrEqual(16));
  expect(Math.max(...placed)).toBeLessThanOrEqual(310);
  expect(placed[0]).toBeLessThan(placed[1] ?? 0);
});
