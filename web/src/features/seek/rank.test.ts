import { expect, it } from "vitest";
import { rank } from "./SeekBox";

it("needs every word and likes beginnings", () => {
  expect(rank("Sound recorder device", "rec sou")).toBeGreaterThanOrEqual(0);
  expect(rank("Sound recorder device", "rec cam")).toBe(-1);
  expect(rank("Receiver", "rec")).toBeGreaterThan(rank("Sound recorder", "rec"));
  expect(rank("Sound recorder", "rec")).toBeGreaterThan(rank("Direction", "rec"));
  expect(rank("anything", "")).toBeGreaterThanOrEqual(0);
});
