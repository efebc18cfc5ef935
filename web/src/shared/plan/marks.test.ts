import { expect, it } from "vitest";
import type { Finding } from "@/shared/api/types";
import { conditionMark, elementMarks, findingsIn, severityIn, shiftMark, shownIn } from "./marks";

const finding = (code: string, severity: Finding["severity"], conditions: string[], elements: string[]) =>
  ({ code, severity, elements, by_condition: Object.fromEntries(conditions.map((one) => [one, severity])), numbers: [] }) as unknown as Finding;

const findings = [
  finding("load.over", "fault", ["hover"], ["rail-5v"]),
  finding("wire.drop", "caution", ["hover", "punch"], ["camera", "rail-5v"]),
  finding("data.guess", "note", ["bench"], ["sender"]),
  finding("noise.absent", "note", [], ["pad"]),
];

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
  const eased = { ...finding("load.usb", "danger", ["hover", "usb"], ["x"]), by_condition: { hover: "danger", usb: "note" } } as unknown as Finding;
  expect(severityIn(eased, "usb")).toBe("note");
  expect(severityIn(eased, "hover")).toBe("danger");
});

it("judges a signal's shift by its own finding, in the conditions it is true in", () => {
  const shifted = {
    ...finding("ground.shift", "fault", ["punch"], ["video", "cam", "fc"]),
    by_condition: { punch: "fault", hover: "caution" },
  } as unknown as Finding;
  expect(["punch", "hover", "bench"].map((c) => shiftMark([shifted], "video", c))).toEqual(["fault", "caution", "ok"]);
  expect(shiftMark([shifted], "cam", "punch")).toBe("ok");
});

it("shows what was chosen, or an element's own worst", () => {
  expect([shownIn({ worst: "punch" }, "hover"), shownIn({ worst: "punch" }, "worst")]).toEqual(["hover", "punch"]);
});
