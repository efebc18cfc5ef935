import { describe, expect, it } from "vitest";
import type { PlanView, PreviewView } from "@/shared/api/types";
import { ApiError } from "@/shared/api/client";
import { readMove, refusedMove } from "./tryMove";

function analysis(spareFrom: number, spareTo: number, over?: number) {
  const rail = (id: string, name: string, spare: number) => ({ id, name, states: { hover: { spare_a: spare }, punch: { spare_a: spare - 1 } } });
  const devices = [{ id: "cam", name: "Camera", rail: "five", max_v: 5.5, states: {} }];
  const findings = over ? [{ code: "window.over", elements: ["other"], numbers: [{ value: 99 }] }, { code: "window.over", elements: ["cam"], numbers: [{ value: over }] }] : [];
  return { budget: { rails: [rail("five", "5 V", spareFrom), rail("twelve", "12 V", spareTo)], devices }, findings };
}

const view = { plan: { rails: [{ id: "five", name: "5 V" }, { id: "twelve", name: "12 V" }] }, analysis: analysis(-0.2, 1.5) } as unknown as PlanView;

describe("trying a move", () => {
  it("says both margins", () => {
    const after = { analysis: analysis(0.1, 1.2) } as unknown as PreviewView;
    const tried = readMove(view, after, "cam", "twelve", "hover");
    expect(tried.refused).toBeNull();
    expect(tried.spare).toEqual({ five: { now: -0.2, then: 0.1 }, twelve: { now: 1.5, then: 1.2 } });
    expect(tried.words).toBe("5 V rail spare −200 mA → 100 mA · 12 V rail spare 1.50 A → 1.20 A");
  });

  it("refuses too many volts with the numbers", () => {
    const after = { analysis: analysis(0.1, 1.2, 12.02) } as unknown as PreviewView;
    expect(readMove(view, after, "cam", "twelve", "hover").refused).toBe("Refused: Camera would get 12.0 V, it takes 5.5 V");
  });

  it("takes the tightest condition when the worst is shown", () => {
    const after = { analysis: analysis(0.1, 1.2) } as unknown as PreviewView;
    expect(readMove(view, after, "cam", "twelve", "worst").spare["five"]?.now).toBeCloseTo(-1.2);
  });

  it("hands on why the server refused", () => {
    const body = { kind: "input", what: "Sender feeds it itself.", where: "", remedy: "", problems: [], current_revision: null, steps: [] };
    expect(refusedMove("x", new ApiError(422, body)).refused).toBe("Refused: Sender feeds it itself.");
  });
});
