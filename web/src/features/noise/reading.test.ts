import { expect, it } from "vitest";
import type { NoiseReview, PlanView } from "@/shared/api/types";
import { noiseCondition, noisyDevice } from "./reading";

const view = {
  plan: {
    devices: [
      { id: "motors", kind: "motor" },
      { id: "camera", kind: "camera" },
      { id: "sender", kind: "sender" },
      { id: "lamp", kind: "led" },
    ],
  },
  analysis: { budget: { conditions: [{ id: "bench" }, { id: "hover" }, { id: "punch" }] } },
} as unknown as PlanView;

const pin = (device: string, tolerated_v: number, hover: number, punch: number) => ({ device, tolerated_v, total_v: { bench: 0, hover, punch }, lines: {} });

const review = {
  pins: [pin("motors", 0.25, 0.4, 0.1), pin("camera", 0.05, 0.01, 0.02), pin("sender", 0.1, 0.06, 0.01), pin("lamp", 1, 0.9, 0.2)],
  videos: [{ signal: "video", total_v: { bench: 0.001, hover: 0.02, punch: 0.005 } }],
} as unknown as NoiseReview;

it("shows the chosen condition, or the one in which the picture is worst", () => {
  expect(noiseCondition(view, review, "bench")).toBe("bench");
  expect(noiseCondition(view, review, "worst")).toBe("hover");
});

it("goes by the pins where there is no picture", () => {
  const blind = { ...review, videos: [], pins: [pin("camera", 0.05, 0.01, 0.04)] } as unknown as NoiseReview;
  expect(noiseCondition(view, blind, "worst")).toBe("punch");
});

it("starts with the part of the picture that is nearest to what it stands, never with the motors", () => {
  expect(noisyDevice(view, review, "hover")).toBe("sender");
  expect(noisyDevice(view, review, "punch")).toBe("camera");
  const dark = { ...review, pins: review.pins.filter((p) => ["motors", "lamp"].includes(p.device)) };
  expect(noisyDevice(view, dark, "hover")).toBe("lamp");
});
