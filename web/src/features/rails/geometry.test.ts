import { describe, expect, it } from "vitest";
import type { RailState, Consumer } from "@/shared/api/types";
import { labelY, layTrack, leaderX, markedWidth, roundAmps, textWidth, trackX, type PlacedWagon } from "./geometry";

function wagon(name: string, amps: number): Consumer {
  return { id: name, kind: "device", name, asked_a: amps, given_a: amps, provenance: "sheet", tol_frac: 0.2 };
}

function state(usable: number, printed: number, ...amps: number[]): RailState {
  const asked = amps.reduce((sum, one) => sum + one, 0);
  const wagons = amps.map((one, index) => wagon(`device number ${index}`, one));
  return {
    volts_v: 5,
    asked_a: asked,
    given_a: asked,
    usable_a: usable,
    printed_a: printed,
    spare_a: usable - asked,
    hard_a: usable,
    tone: "ok",
    bound_by: null,
    guess_frac: 0,
    limits: [],
    consumers: wagons,
    sources: [],
  };
}

const words = (one: Consumer) => `${one.name} ${one.asked_a} A`;

function box(placed: PlacedWagon) {
  return { left: placed.label.x, right: placed.label.x + markedWidth(placed.label.text), level: placed.label.level, leader: leaderX(placed) };
}

describe("a track", () => {
  it("draws wagons and the stop to the same scale", () => {
    const track = layTrack(state(2, 2.5, 1, 0.5), 1, 840, words);
    const [first, second] = track.wagons;
    expect((first?.width ?? 0) / (second?.width ?? 1)).toBeCloseTo(2, 5);
    expect(track.stopX - track.x).toBeCloseTo(2 * (first?.width ?? 0), 5);
    expect((track.printX ?? 0) - track.x).toBeCloseTo(2.5 * (first?.width ?? 0), 5);
    expect(track.axis.sleeper_px / track.axis.sleeper_a).toBeCloseTo(first?.width ?? 0, 5);
  });

  it("puts what does not fit beyond the stop", () => {
    const track = layTrack(state(1, 1, 0.8, 0.7), 0, 840, words);
    expect(track.endX).toBeGreaterThan(track.stopX + 20);
    expect(track.endX).toBeLessThanOrEqual(840);
  });

  it("breaks a load that dwarfs its track and keeps the rest to scale behind the break", () => {
    const track = layTrack(state(96, 200, 84, 2.4, 1.2), 0, 840, words);
    const [motors, second, third] = track.wagons;
    expect(motors?.broken).toBe(true);
    expect(second?.broken).toBe(false);
    expect((second?.width ?? 0) / (third?.width ?? 1)).toBeCloseTo(2, 5);
    expect(track.axis.at(84 + 12) - track.axis.at(84)).toBeCloseTo(track.axis.sleeper_px * (12 / track.axis.sleeper_a), 5);
  });

  it("never lets labels touch, however many wagons there are", () => {
    for (let count = 1; count <= 24; count += 1) {
      const amps = Array.from({ length: count }, (_, k) => 0.02 + ((k * 37) % 11) / 40).sort((a, b) => b - a);
      const track = layTrack(state(1.5, 2, ...amps), 2, 840, words);
      const outside = track.wagons.filter((one) => !one.label.inside).map(box);
      for (const one of outside) {
        expect(one.left).toBeGreaterThanOrEqual(0);
        expect(one.right).toBeLessThanOrEqual(840);
        for (const other of outside) {
          if (one !== other && one.level === other.level) expect(one.right < other.left || other.right < one.left).toBe(true);
          const pushedBack = other.right > 840 - 9;
          if (other.level < one.level && !pushedBack) expect(one.leader < other.left || one.leader > other.right).toBe(true);
        }
      }
      for (const one of track.wagons) if (one.label.inside) expect(textWidth(one.label.text)).toBeLessThan(one.width);
    }
  });

  it("stands on a rail without a source", () => {
    const track = layTrack(state(0, 0), 0, 840, words);
    expect(track.stopX).toBe(trackX(0));
    expect(Number.isFinite(track.axis.sleeper_px)).toBe(true);
  });
});

it("rounds sleepers to one, two or five", () => {
  expect([0.013, 0.02, 0.04, 0.08, 1.4, 30].map(roundAmps)).toEqual([0.01, 0.02, 0.05, 0.1, 1, 20].map((v) => expect.closeTo(v, 9)));
});

it("stacks labels upwards", () => {
  expect(labelY(100, 2)).toBeLessThan(labelY(100, 1));
});
