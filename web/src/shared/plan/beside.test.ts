import { expect, it } from "vitest";
import type { PlanDocument } from "@/shared/api/types";
import { besideLink, regulatedRails } from "./beside";

it("names rails that a regulator feeds, and keeps what is looked at on the way to them", () => {
  const plan = {
    rails: [{ id: "five", nominal_v: 5 }, { id: "pack" }, { id: "usb", nominal_v: 5 }],
    supplies: [
      { output: "five", set_v: 5 },
      { output: "pack", kind: "link" },
    ],
  } as unknown as PlanDocument;
  expect(regulatedRails(plan).map((one) => one.id)).toEqual(["five"]);
  expect(besideLink(3, "five", "?c=hover&s=camera&sheet=x")).toBe("/plans/3/rails?c=hover&s=five&beside=five");
});
