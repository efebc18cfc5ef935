import { expect, it } from "vitest";
import { typedAmps } from "./amps";

it("reads amps as a builder types them, and nothing else", () => {
  expect(["850mA", "1,5 A", "9W", ".5", "0.25", "2kW", "30 µA"].map(typedAmps)).toEqual([0.85, 1.5, 9, 0.5, 0.25, 2000, 3e-5]);
  expect(["", "five", "1.5V", "-2A", "1,700.5A", "A"].map(typedAmps)).toEqual([null, null, null, null, null, null]);
});
