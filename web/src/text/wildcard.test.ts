import { expect, it } from "vitest";
import { matches } from "./wildcard";

it("finds parts of names without wildcards and whole names with them", () => {
  expect(matches("pin", "Spine_01")).toBe(true);
  expect(matches("spine_*", "spine_01")).toBe(true);
  expect(matches("spine_?", "spine_01")).toBe(false);
  expect(matches("a.b*", "axb1")).toBe(false);
  expect(matches("", "anything")).toBe(true);
});
