import { describe, expect, it } from "vitest";
import { figure, length, readNumber } from "./numbers";

describe("readNumber", () => {
  it("works out sums, products and brackets", () => {
    expect(readNumber("1+2*3")).toBe(7);
    expect(readNumber("(1+2)*-3")).toBe(-9);
    expect(readNumber("1/4")).toBe(0.25);
  });
  it("takes units of the field", () => {
    expect(readNumber("25 cm", "m")).toBeCloseTo(0.25);
    expect(readNumber("2 turns", "°")).toBe(720);
    expect(readNumber("1 m + 50 mm", "m")).toBeCloseTo(1.05);
    expect(readNumber("30 /min", "/s")).toBeCloseTo(0.5);
    expect(readNumber("1.5 ×", "×")).toBe(1.5);
    expect(readNumber("30 cm", "m")).toBeCloseTo(0.3);
  });
  it("refuses what is no number", () => {
    for (const text of ["", "abc", "1+", "(1", "1/0", "2 cm"]) expect(readNumber(text)).toBeUndefined();
  });
});

describe("writing", () => {
  it("never shows a negative nought", () => expect(figure(-0.0001)).toBe("0.000"));
  it("chooses the unit by size", () => {
    expect(length(0.0123)).toBe("12.300 mm");
    expect(length(1e-12)).toBe("0.000 mm");
    expect(length(2)).toBe("2.000 m");
  });
});
