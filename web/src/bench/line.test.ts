import { expect, it } from "vitest";
import type { Entry } from "../wire/wire.gen";
import { lineOf } from "./line";

const entry = (number: number, parent?: number, present = false): Entry => ({
  number,
  parent,
  title: `edit ${number}`,
  author: "rigger",
  made: "2030-01-01T00:00:00Z",
  present,
});

it("follows the present state back to the beginning and leaves other ways out", () => {
  const history = [entry(5, 2, true), entry(4, 3), entry(3, 2), entry(2, 1), entry(1)];
  expect([...lineOf(history)]).toEqual([5, 2, 1]);
});

it("has nothing to follow in an empty history", () => expect(lineOf([]).size).toBe(0));
