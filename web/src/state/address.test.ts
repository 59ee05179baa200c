import { expect, test } from "vitest";
import { addressOf, placeAt, specimenAt } from "./address";

test("a place is read from the address that it is written as", () => {
  const place = { step: "controls" as const, chosen: ["root", "leg, left & right"] };
  const url = new URL(addressOf("abc1", place), "http://x");
  expect(specimenAt(url.pathname)).toBe("abc1");
  expect(placeAt(url.pathname, url.search)).toEqual(place);
});

test("what is no place leads to none", () => {
  expect(specimenAt("/")).toBeUndefined();
  expect(placeAt("/specimen/abc/nowhere", "")).toEqual({ step: undefined, chosen: [] });
  expect(specimenAt("/specimen/abc")).toBe("abc");
});
