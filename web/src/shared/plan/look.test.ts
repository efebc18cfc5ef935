import { expect, it } from "vitest";
import type { Finding, PlanView } from "@/shared/api/types";
import { conditionMark, elementMarks, elementName, endName, findingsIn, ownerOfEnd, severityIn } from "./look";

const finding = (code: string, severity: Finding["severity"], conditions: string[], elements: string[]) => ({ code, severity, conditions, elements, by_condition: {}, numbers: [], fixes: [] }) as unknown as Finding;

const findings = [finding("load.over", "fault", ["hover"], ["rail-5v"]), finding("wire.drop", "caution", ["hover", "punch"], ["camera", "rail-5v"]), finding("data.guess", "note", ["bench"], ["sender"]), finding("noise.absent", "note", [], ["pad"])];

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
} as unknown as PlanView;

it("names everything a screen may show, pins, pads and ground wires included", () => {
  expect(["pack", "fc", "rail-5v", "camera", "hover", "video", "bulk"].map((id) => elementName(view, id))).toEqual(["6S pack", "Controller", "5 V", "Camera", "Hover", "Picture", "Bulk"]);
  expect(elementName(view, "pad-a")).toBe("Pad A");
  expect(elementName(view, "fc-tx1")).toBe("Controller TX1");
  expect(elementName(view, "fc-gnd")).toBe("Ground of Controller");
  expect(elementName(view, "unknown")).toBe("unknown");
});

it("knows whose end a signal has, pin or not", () => {
  expect(ownerOfEnd(view, "fc-tx1")).toBe("fc");
  expect(ownerOfEnd(view, "camera")).toBe("camera");
  expect(endName(view, "fc-tx1")).toBe("Controller TX1");
  expect(endName(view, "camera")).toBe("Camera, pin not said");
});

it("shows a condition's findings, those that hold everywhere, and all of them in the worst", () => {
  expect(findingsIn(findings, "punch").map((f) => f.code)).toEqual(["wire.drop", "noise.absent"]);
  expect(findingsIn(findings, "worst")).toHaveLength(4);
});

it("marks elements and conditions by the worst of their findings, notes left out", () => {
  const marks = elementMarks(findings, "hover");
  expect(marks.get("rail-5v")).toBe("fault");
  expect(marks.get("camera")).toBe("caution");
  expect(marks.has("sender")).toBe(false);
  expect(conditionMark(findings, "punch")).toBe("caution");
  expect(conditionMark(findings, "bench")).toBe("ok");
  expect(conditionMark([finding("noise.capacitor_volts", "danger", [], ["bulk"]), ...findings], "worst")).toBe("danger");
});

it("weighs a finding as it does in its condition", () => {
  const eased = { ...finding("load.usb", "danger", ["hover", "usb"], ["x"]), by_condition: { usb: "note" } } as unknown as Finding;
  expect(severityIn(eased, "usb")).toBe("note");
  expect(severityIn(eased, "hover")).toBe("danger");
});
