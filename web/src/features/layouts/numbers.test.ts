import { describe, expect, it } from "vitest";
import { bestAt, ROWS } from "./numbers";
import type { Numbers } from "./useLayouts";

const one = (fields: Partial<Numbers>): Numbers => ({
  parts_added: 0, grams: 0, wires: 0, least_spare_a: 0, spare_at: "5 V", hottest_c: 60, hottest: "", picture_db: -40, reset_chance: 0, failure: "nothing lost",
  control_lost: false, heavy: 0, dip: "–", dip_room_frac: null, ...fields,
}); // prettier-ignore

describe("rows of layouts", () => {
  it("marks the best of each row, and none where all are alike", () => {
    const wires = ROWS.find((row) => row.label === "wires to solder");
    const spare = ROWS.find((row) => row.label === "least spare");
    expect(wires && bestAt(wires, [one({ wires: 6 }), one({ wires: 15 })])).toEqual([true, false]);
    expect(spare && bestAt(spare, [one({ least_spare_a: -1.78 }), one({ least_spare_a: 0.31 })])).toEqual([false, true]);
    expect(wires && bestAt(wires, [one({}), one({})])).toEqual([false, false]);
  });

  it("calls what is short, hot, seen or lost bad", () => {
    const bad = (fields: Partial<Numbers>) => ROWS.filter((row) => row.bad(one(fields))).map((row) => row.label);
    expect(bad({})).toEqual([]);
    expect(bad({ least_spare_a: -0.1, heavy: 2 })).toEqual(["dangers and faults", "least spare"]);
    expect(bad({ dip_room_frac: -0.01 })).toEqual(["nearest to a reset, plug and punch"]);
    expect(bad({ dip_room_frac: 0 })).toEqual([]);
    expect(bad({ control_lost: true })).toEqual(["one regulator fails"]);
  });
});
