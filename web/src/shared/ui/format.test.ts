import { expect, it } from "vitest";
import { counted, drawText, railTitle, si } from "./format";

it("writes like the core's formatter", () => {
  expect([
    si(0.85, "A"),
    si(1.2, "A"),
    si(0.0123, "V"),
    si(25.2, "V"),
    si(470e-6, "F"),
    si(0, "A"),
    si(4700, "Ω"),
    si(2e-11, "V"),
    si(0.9999, "A"),
    si(null, "A"),
  ]).toEqual(["850 mA", "1.20 A", "12.3 mV", "25.2 V", "470 µF", "0 A", "4.70 kΩ", "0 V", "1.00 A", "–"]);
});

it("writes a draw as it would be typed", () => {
  expect([drawText({ value: 0.85, unit: "A" }), drawText({ value: 9, unit: "W", at_v: 12 }), drawText({ value: 0, unit: "A" })]).toEqual([
    "850mA",
    "9W@12V",
    "0A",
  ]);
});

it("does not say rail twice", () => {
  expect([railTitle("5 V"), railTitle("Pack rail")]).toEqual(["5 V rail", "Pack rail"]);
});

it("counts one thing as one", () => {
  expect([counted(0, "wire"), counted(1, "wire"), counted(2, "wire")]).toEqual(["0 wires", "1 wire", "2 wires"]);
});
