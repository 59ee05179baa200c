import { describe, expect, it } from "vitest";
import { CONTROL_STRIDE, decodeFrame, JOINT_STRIDE } from "./live";

/** encode writes a frame as docs/live.md describes it. */
function encode(joints: number, controls: number, curves: number, samples: number): ArrayBuffer {
  const numbers = JOINT_STRIDE * joints + CONTROL_STRIDE * controls + 3 * samples * curves + 2 + 3 + controls;
  const data = new ArrayBuffer(40 + 4 * numbers);
  const view = new DataView(data);
  [0x3146594d, 7, 9, 0, joints, controls, curves, samples, 2, 3].forEach((n, i) => {
    view.setUint32(4 * i, n, true);
  });
  view.setFloat32(12, 1.5, true);
  for (let i = 0; i < numbers; i++) view.setFloat32(40 + 4 * i, i, true);
  return data;
}

describe("decodeFrame", () => {
  it("takes a frame apart", () => {
    const frame = decodeFrame(encode(3, 2, 2, 5));
    expect([frame.seq, frame.sequence, frame.time]).toEqual([7, 9, 1.5]);
    expect(frame.joints).toHaveLength(36);
    expect(frame.controls[0]).toBe(36);
    expect(frame.curves).toHaveLength(2);
    expect(frame.curves[1]?.[0]).toBe(36 + 36 + 15);
    expect([...frame.morphs]).toEqual([36 + 36 + 30, 36 + 36 + 31]);
    expect(frame.dials).toHaveLength(3);
    expect([...frame.idle]).toEqual([36 + 36 + 35, 36 + 36 + 36]);
  });
  it("takes an empty rig", () => expect(decodeFrame(encode(0, 0, 0, 64)).curves).toEqual([]));
  it("refuses what is no frame", () => {
    const data = encode(1, 1, 1, 4);
    new DataView(data).setUint32(0, 5, true);
    expect(() => decodeFrame(data)).toThrow("not a frame");
    expect(() => decodeFrame(encode(4, 1, 1, 4).slice(0, 100))).toThrow();
  });
});
