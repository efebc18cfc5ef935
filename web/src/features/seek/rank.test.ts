import { expect, it } from "vitest";
import { rank } from "./SeekBox";
import { TOOLS } from "./tools";

it("needs every word and likes beginnings", () => {
  expect(rank("Sound recorder device", "rec sou")).toBeGreaterThanOrEqual(0);
  expect(rank("Sound recorder device", "rec cam")).toBe(-1);
  expect(rank("Receiver", "rec")).toBeGreaterThan(rank("Sound recorder", "rec"));
  expect(rank("Sound recorder", "rec")).toBeGreaterThan(rank("Direction", "rec"));
  expect(rank("anything", "")).toBeGreaterThanOrEqual(0);
});

it("finds tools by the words of the trade", () => {
  const best = (typed: string) => TOOLS.filter((tool) => rank(`${tool.name} tool ${tool.also}`, typed) >= 0).map((tool) => tool.name);
  expect(best("led resistor")).toContain("Resistor for a LED");
  for (const typed of ["wire", "capacitor", "strap", "bec", "short", "antenna", "brown-out", "ubec", "smoke"]) expect(best(typed)).not.toEqual([]);
});
