import { expect, it } from "vitest";
import type { PlanView } from "@/shared/api/types";
import { elementName, endName, isRegulator, ownerOfEnd } from "./elements";

const view = {
  plan: {
    pack: { name: "6S pack" },
    boards: [{ id: "fc", name: "Controller", pins: [{ id: "fc-tx1", label: "TX1" }], returns: [{ id: "fc-gnd", to: "pack" }] }],
    rails: [{ id: "rail-5v", name: "5 V", pads: [{ id: "pad-a", label: "A" }] }],
    devices: [{ id: "camera", name: "Camera" }],
    conditions: [{ id: "hover", name: "Hover" }],
    signals: [{ id: "video", name: "Picture" }],
    filters: [{ id: "bulk", name: "Bulk" }],
  },
  // An instant of a run is a condition of the screen alone.
  analysis: { budget: { conditions: [{ id: "instant", name: "at 331 ms" }] } },
} as unknown as PlanView;

it("names everything a screen may show, pins, pads and ground wires included", () => {
  expect(["pack", "fc", "rail-5v", "camera", "hover", "video", "bulk"].map((id) => elementName(view, id))).toEqual([
    "6S pack",
    "Controller",
    "5 V",
    "Camera",
    "Hover",
    "Picture",
    "Bulk",
  ]);
  expect(elementName(view, "pad-a")).toBe("Pad A");
  expect(elementName(view, "fc-tx1")).toBe("Controller TX1");
  expect(elementName(view, "fc-gnd")).toBe("Ground of Controller");
  expect(elementName(view, "instant")).toBe("at 331 ms");
  expect(elementName(view, "unknown")).toBe("unknown");
});

it("knows whose end a signal has, pin or not", () => {
  expect(ownerOfEnd(view, "fc-tx1")).toBe("fc");
  expect(ownerOfEnd(view, "camera")).toBe("camera");
  expect(endName(view, "fc-tx1")).toBe("Controller TX1");
  expect(endName(view, "camera")).toBe("Camera, pin not said");
});

it("knows a regulator by its kind", () => {
  expect(["linear", "buck", "boost", "buckboost", "diode", "link", "strap"].filter((kind) => isRegulator({ kind } as never))).toEqual([
    "linear",
    "buck",
    "boost",
    "buckboost",
  ]);
});
