import { expect, it } from "vitest";
import type { Frame } from "../server/live";
import type { Joint } from "../wire/rig.gen";
import { swayed } from "./Swaying";

const joint = (id: string, parent: string | undefined, position: [number, number, number]): Joint => ({
  id,
  name: id,
  parent,
  position,
  rotation: [0, 0, 0, 1],
});
const joints = [joint("base", undefined, [0, 0, 0]), joint("bar", "base", [1, 0, 0]), joint("end", "bar", [3, 0, 0])];
const flat = joints.flatMap((j) => [1, 0, 0, 0, 1, 0, 0, 0, 1, ...j.position]);
const frame = { joints: new Float32Array(flat) } as Frame;

it("turns what is loose, and what hangs on it, and nothing else", () => {
  const after = swayed(
    frame,
    joints,
    [{ joint: "bar", through: [1, 0, 0], turn: [0, 0, 2], move: [0, 0, 0] }],
    1,
    4,
  ).joints;
  const place = (i: number) => [...after.subarray(12 * i + 9, 12 * i + 12)];
  expect(place(0)).toEqual([0, 0, 0]);
  expect(place(1)).toEqual([1, 0, 0]);
  const [x = 0, y = 0] = place(2);
  expect(Math.hypot(x - 1, y)).toBeCloseTo(2, 6); // the bar keeps its length
  expect(y).toBeCloseTo(2 * Math.sin(0.1), 5); // a twentieth of the specimen, over two metres
  expect(Math.atan2(after[25] ?? 0, after[24] ?? 0)).toBeCloseTo(0.1, 5);
  expect([...frame.joints]).toEqual(flat); // what came is left as it was
});

it("turns by so much at most, however near it stands", () => {
  const after = swayed(
    frame,
    joints,
    [{ joint: "bar", through: [3, 0, 0], turn: [0, 0, 2], move: [0, 0, 0] }],
    1,
    400,
  ).joints;
  expect(Math.atan2(after[13] ?? 0, after[12] ?? 0)).toBeCloseTo(0.4, 5);
});
