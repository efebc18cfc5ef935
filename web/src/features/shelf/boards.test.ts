import { describe, expect, it } from "vitest";
import { addRegulator, addStrap, changeRegulator, EMPTY_BOARD, inletOf, padGroups, putPads, regulators, removeSupply, setInlet, straps } from "./boards";

const five = addRegulator(EMPTY_BOARD);
const rail = five.rails[1]?.id ?? "";

describe("a board from its silkscreen", () => {
  it("gives each regulator a rail that follows its volts", () => {
    const nine = changeRegulator(five, "reg-1", { set_v: 9 });
    expect(nine.rails[1]).toMatchObject({ id: rail, name: "9 V", nominal_v: 9 });
    expect(regulators(nine)[0]).toMatchObject({ name: "9 V regulator", output: rail, start_v: 10, stop_v: 9.5 });
    expect(regulators(changeRegulator(five, "reg-1", { kind: "linear" }))[0]?.efficiency).toEqual([]);
  });

  it("counts pads alike as one, and keeps those that stay", () => {
    const group = { rail, label: "5V", direction: "out" as const, count: 3, limit_a: 1, width_m: 0.001 };
    const three = putPads(five, null, group);
    expect(padGroups(three)).toEqual([group]);
    const ids = three.rails[1]?.pads?.map((pad) => pad.id);
    const two = putPads(three, group, { ...group, label: "5V CAM", count: 2 });
    expect(two.rails[1]?.pads?.map((pad) => [pad.id, pad.label])).toEqual(ids?.slice(0, 2).map((id) => [id, "5V CAM"]));
    expect(padGroups(putPads(two, { ...group, label: "5V CAM", count: 2 }, { ...group, count: 0 }))).toEqual([]);
    const moved = putPads(three, group, { ...group, rail: "pack-in" });
    expect(padGroups(moved)).toEqual([{ ...group, rail: "pack-in" }]);
  });

  it("takes what hung on a regulator away with it", () => {
    const two = addRegulator(five);
    expect(regulators(two)[1]).toMatchObject({ set_v: 9, start_v: 10 });
    const chained = changeRegulator(two, "reg-2", { input: rail });
    const chosen = addStrap(chained, [rail, "pack-in"]);
    expect(straps(chosen)[0]).toMatchObject({ selected: [rail], choices: [rail, "pack-in"] });
    const left = removeSupply(chosen, "reg-1");
    expect(left.supplies).toEqual([]);
    expect(left.rails.map((one) => one.id)).toEqual(["pack-in"]);
  });

  it("hangs on 5 V from elsewhere what hung on the pack", () => {
    const other = setInlet(five, "five");
    expect(inletOf(other)).toBe("five");
    expect(other.rails[0]).toMatchObject({ id: "five-in", nominal_v: 5 });
    expect(regulators(other)[0]?.input).toBe("five-in");
    expect(setInlet(other, "none").supplies).toEqual([]);
  });
});
