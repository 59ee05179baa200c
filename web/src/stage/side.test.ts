import { expect, it } from "vitest";
import { sideOf } from "./side";

it("reads sides that stand by themselves", () => {
  expect(["leg_L01", "R.arm", "left wing", "arm_r", "Fin Right 2"].map(sideOf)).toEqual(["L", "R", "L", "R", "R"]);
  expect(["Lantern", "tail", "", "collar"].map(sideOf)).toEqual(["C", "C", "C", "C"]);
});
