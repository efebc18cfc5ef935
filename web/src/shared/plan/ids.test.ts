import { expect, it } from "vitest";
import type { PlanDocument } from "@/shared/api/types";
import { freshId } from "./ids";

it("never hands out an id that a plan has, pads and returns included", () => {
  const plan = {
    boards: [{ id: "fc", name: "fc", returns: [{ id: "fc-gnd", to: "pack" }] }],
    rails: [{ id: "rail", name: "5 V", board: "fc", pads: [{ id: "pad-1", label: "5 V" }] }],
    devices: [{ id: "wire-2" }],
  } as unknown as PlanDocument;
  expect(freshId(plan, "new")).toBe("new");
  expect(freshId(plan, "fc-gnd")).toBe("fc-gnd-2");
  expect(freshId(plan, "pad-1")).toBe("pad-1-2");
  expect(freshId(plan, "pack")).toBe("pack-2");
  expect(freshId(plan, "x".repeat(80)).length).toBeLessThanOrEqual(64);
});
