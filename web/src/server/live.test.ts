import { describe, expect, it } from "vitest";
import { CONTROL_STRIDE, decodeFrame, JOINT_STRIDE } from "./live";

/** encode writes a frame as docs/live.md describes it: numbers rise from section to section. */
function encode(sections: [string, number][], magic = 0x3246594d): ArrayBuffer {
  const data = new ArrayBuffer(24 + sections.reduce((sum, [, length]) => sum + 8 + 4 * length, 0));
  const view = new DataView(data);
  [magic, 7, 9, 0, 1, sections.length].forEach((n, i) => {
    view.setUint32(4 * i, n, true);
  });
  view.setFloat32(12, 1.5, true);
  let at = 24;
  let next = 0;
  for (const [tag, length] of sections) {
    for (let i = 0; i < 4; i++) view.setUint8(at + i, tag.charCodeAt(i));
    view.setUint32(at + 4, length, true);
    for (let i = 0; i < length; i++) view.setFloat32(at + 8 + 4 * i, next++, true);
    at += 8 + 4 * length;
  }
  return data;
}

describe("decodeFrame", () => {
  it("takes a frame apart", () => {
    const frame = decodeFrame(
      encode([
        ["join", 3 * JOINT_STRIDE],
        ["ctrl", 2 * CONTROL_STRIDE],
        ["curv", 2 * 193],
        ["what", 5],
        ["morf", 2],
        ["dial", 3],
        ["idle", 2],
        ["inst", 4],
        ["dfrm", 2],
      ]),
    );
    expect([frame.seq, frame.sequence, frame.time, frame.goesOn]).toEqual([7, 9, 1.5, true]);
    expect(frame.joints).toHaveLength(36);
    expect(frame.controls[0]).toBe(36);
    expect(frame.curves).toHaveLength(2);
    expect(frame.curves[1]?.owner).toBe(72 + 193);
    expect(frame.curves[1]?.points[0]).toBe(72 + 194);
    expect(frame.curves[1]?.points).toHaveLength(192);
    expect([...frame.morphs]).toEqual([463, 464]);
    expect(frame.dials).toHaveLength(3);
    expect([...frame.idle]).toEqual([468, 469]);
    expect(frame.driven).toHaveLength(0);
    expect(frame.instances.map((set) => [set.part, set.count])).toEqual([[471, 472]]);
    expect([...frame.deformed.keys()]).toEqual([474]);
  });
  it("takes an empty rig", () => expect(decodeFrame(encode([])).curves).toEqual([]));
  it("refuses what is no frame", () => {
    expect(() => decodeFrame(encode([], 5))).toThrow("not a frame");
    expect(() => decodeFrame(encode([["join", 40]]).slice(0, 100))).toThrow();
  });
});
