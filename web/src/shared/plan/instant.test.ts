import { expect, it } from "vitest";
import type { PlanView } from "@/shared/api/types";
import { INSTANT, withInstant, type Instant } from "./instant";

const view = {
  plan: { name: "own" },
  analysis: {
    findings: [],
    budget: {
      conditions: [{ id: "hover", name: "Hover" }],
      rails: [
        { id: "r5", states: { hover: { volts_v: 5 } } },
        { id: "r3", states: { hover: { volts_v: 3.3 } } },
      ],
      supplies: [],
      devices: [{ id: "cam", states: { hover: { pin_v: 4.9 } } }],
    },
    returns: { grounds: [{ id: "main", states: { hover: { volts_v: 0.01 } } }], segments: [] },
  },
} as unknown as PlanView;
const now = {
  at_s: 0.331,
  head: { id: INSTANT, name: "at 331 ms" },
  rails: { r5: { volts_v: 4.1 } },
  supplies: {},
  devices: { cam: { pin_v: 4.0 } },
  grounds: { main: { volts_v: 0.09 } },
  segments: {},
} as unknown as Instant;

it("puts an instant beside the conditions, and leaves those as they are", () => {
  const { budget, returns } = withInstant(view, now).analysis;
  expect(budget.conditions.map((one) => one.id)).toEqual(["hover", INSTANT]);
  expect(budget.rails[0]?.states).toEqual({ hover: { volts_v: 5 }, [INSTANT]: { volts_v: 4.1 } });
  expect(budget.devices[0]?.states[INSTANT]).toEqual({ pin_v: 4.0 });
  expect(returns.grounds[0]?.states[INSTANT]).toEqual({ volts_v: 0.09 });
  // What the instant says nothing of keeps numbers to show.
  expect(budget.rails[1]?.states[INSTANT]).toEqual({ volts_v: 3.3 });
  expect(view.analysis.budget.rails[0]?.states).toEqual({ hover: { volts_v: 5 } });
});
