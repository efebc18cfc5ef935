import { expect, it } from "vitest";
import type { PlanView, SignalAnswer } from "@/shared/api/types";
import { groundCondition, share, shareMark } from "./reading";

const signal = (shift_v: number, step_v: number, margin_v: number) => ({ id: "s", margin_v, reason: "", states: { hover: { shift_v, step_v, step_by: null }, punch: { shift_v: shift_v * 2, step_v, step_by: null } } }) as SignalAnswer;

const view = (signals: SignalAnswer[]) =>
  ({
    analysis: {
      budget: { conditions: [{ id: "hover" }, { id: "punch" }] },
      returns: { signals, grounds: [{ id: "g", states: { hover: { volts_v: 0.09 }, punch: { volts_v: 0.02 } } }] },
    },
  }) as unknown as PlanView;

it("judges video by its steady shift and logic with one edge on top", () => {
  expect(share(signal(-0.02, 0.1, 0.01), "hover", true)).toBeCloseTo(2);
  expect(share(signal(-0.1, 0.1, 0.4), "hover", false)).toBeCloseTo(0.5);
  expect(share(signal(0.1, 0, 0), "hover", true)).toBe(0);
  expect(share(signal(0.1, 0, 1), "nowhere", true)).toBe(0);
});

it("marks by share: a picture from one on, logic from half", () => {
  expect([0.9, 1.5, 5].map((s) => shareMark(s, true))).toEqual(["ok", "caution", "fault"]);
  expect([0.4, 0.7, 1.2].map((s) => shareMark(s, false))).toEqual(["ok", "caution", "fault"]);
});

it("shows the condition in which a signal is worst, or the grounds stand highest where there is none", () => {
  expect(groundCondition(view([signal(0.01, 0, 0.01)]), "hover")).toBe("hover");
  expect(groundCondition(view([signal(0.01, 0, 0.01)]), "worst")).toBe("punch");
  expect(groundCondition(view([]), "worst")).toBe("hover");
});
