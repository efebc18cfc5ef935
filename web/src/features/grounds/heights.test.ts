import { expect, it } from "vitest";
import { BOX_H, BOX_W, depths, heightScale, niceStep, place, ribbonWidth, type Standing } from "./heights";

it("counts steps from the pack by the shortest way, and puts what hangs on nothing last", () => {
  const returns = [
    { owner: "board", to: "pack" },
    { owner: "fc", to: "board" },
    { owner: "sender", to: "fc" },
    { owner: "camera", to: "sender" },
    { owner: "camera", to: "board" },
  ];
  const found = depths(["board", "fc", "sender", "camera", "lost"], returns);
  expect([...found.values()]).toEqual([1, 2, 3, 2, 4]);
});

it("breaks the axis where every ground stands far above the pack", () => {
  const high = heightScale([0.076, 0.1], 400);
  expect(high.broken).toBe(true);
  expect(high.y(0)).toBeGreaterThan(high.y(0.076));
  expect(high.y(0.1)).toBeLessThan(high.y(0.076));
  expect(heightScale([0.001, 0.1], 400).broken).toBe(false);
  expect(niceStep(0.0031)).toBeCloseTo(0.005);
});

it("never lays one label over another", () => {
  const grounds: Standing[] = Array.from({ length: 18 }, (_, k) => ({
    id: `g${k}`,
    name: `G${k}`,
    board: false,
    volts: 0.08 + (k % 5) * 0.0004,
    depth: 1 + (k % 3),
  }));
  const scale = heightScale(
    grounds.map((g) => g.volts),
    420,
  );
  const placed = place(grounds, scale, 850, 420);
  for (const a of placed)
    for (const b of placed) {
      if (a.id === b.id) continue;
      const apart = Math.abs(a.labelY - b.labelY) >= BOX_H || Math.abs(a.x - b.x) >= BOX_W;
      expect(apart, `${a.id} and ${b.id}`).toBe(true);
    }
});

it("draws more current wider", () => {
  expect(ribbonWidth(80)).toBeGreaterThan(ribbonWidth(2));
  expect(ribbonWidth(-2)).toBe(ribbonWidth(2));
});
