import { describe, expect, it } from "vitest";
import { mended, put, wordAt, writtenValue } from "./formula";

describe("a formula being typed", () => {
  it("has names in quotes where they are no plain words", () => {
    expect(writtenValue("root.moveX")).toBe("root.moveX");
    expect(writtenValue("left fin-2.bend")).toBe("'left fin-2'.bend");
    expect(writtenValue("it's.a")).toBe("'it\\'s'.a");
    expect(writtenValue("height")).toBe("height");
  });

  it("is completed at the word before the caret", () => {
    expect(wordAt("2 * roo + 1", 7)).toEqual({ from: 4, word: "roo" });
    expect(wordAt("2 * 'left f", 11)).toEqual({ from: 4, word: "'left f" });
    expect(put("2 * roo + 1", 7, "root.moveX")).toEqual({ text: "2 * root.moveX + 1", caret: 14 });
    expect(put("2 * ", 4, "wave(")).toEqual({ text: "2 * wave(", caret: 9 });
  });

  it("is mended where a message says what is meant", () => {
    const wrong = (at: number, meant: string) => ({ at, message: `there is none; is ${meant} meant?` });
    expect(mended("2 * wvae(time)", wrong(4, "wave"))).toBe("2 * wave(time)");
    expect(mended("2 * haed.moveX + 1", wrong(4, "head"))).toBe("2 * head.moveX + 1");
    expect(mended("head.moveQ", wrong(0, "head.moveX"))).toBe("head.moveX");
    expect(mended("'lefd fin'.bend", wrong(0, "left fin"))).toBe("'left fin'.bend");
    expect(mended("1 +", { at: 3, message: "it ends too early" })).toBe("1 +");
  });
});
