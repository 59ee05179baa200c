import { describe, expect, it } from "vitest";
import { cornersOf, join } from "./elements";

describe("join", () => {
  it("adds what is not picked and takes away a single one that is", () => {
    expect(join([1, 2], [3])).toEqual([1, 2, 3]);
    expect(join([1, 2, 3], [2])).toEqual([1, 3]);
    expect(join([1], [1, 2])).toEqual([1, 1, 2]); // an edge is a pair
  });
});

describe("cornersOf", () => {
  it("draws faces by their corners and the rest as it is", () => {
    const index = [0, 1, 2, 2, 1, 3];
    expect(cornersOf("faces", [1], index)).toEqual([2, 1, 3]);
    expect(cornersOf("vertices", [5, 6], index)).toEqual([5, 6]);
    expect(cornersOf("edges", [0, 1], index)).toEqual([0, 1]);
  });
});
