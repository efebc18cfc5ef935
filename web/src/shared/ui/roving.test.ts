import { expect, it } from "vitest";
import { nextStop, type Stop } from "./roving";

const stops: Stop[] = [
  { row: 0, x: 0 },
  { row: 0, x: 300 },
  { row: 0, x: 100 },
  { row: 2, x: 20 },
  { row: 2, x: 290 },
];

it("walks along a row in the order of the eye, and stops at its ends", () => {
  expect([nextStop(stops, 0, "ArrowRight"), nextStop(stops, 2, "ArrowRight"), nextStop(stops, 1, "ArrowRight")]).toEqual([2, 1, null]);
  expect([nextStop(stops, 1, "ArrowLeft"), nextStop(stops, 0, "ArrowLeft"), nextStop(stops, 3, "ArrowLeft")]).toEqual([2, null, null]);
  expect([nextStop(stops, 2, "Home"), nextStop(stops, 2, "End")]).toEqual([0, 1]);
});

it("goes to the nearest of the next row", () => {
  expect([nextStop(stops, 1, "ArrowDown"), nextStop(stops, 0, "ArrowDown"), nextStop(stops, 4, "ArrowUp"), nextStop(stops, 3, "ArrowUp")]).toEqual([
    4, 3, 1, 0,
  ]);
  expect([nextStop(stops, 3, "ArrowDown"), nextStop(stops, 0, "ArrowUp"), nextStop(stops, 9, "ArrowUp"), nextStop(stops, 0, "x")]).toEqual([
    null,
    null,
    null,
    null,
  ]);
});
