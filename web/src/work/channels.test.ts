import { expect, test } from "vitest";
import type { Frame } from "../server/live";
import { setState } from "../state/store";
import type { Control, Document } from "../wire/rig.gen";
import type { Specimen } from "../wire/wire.gen";
import { channelValues, rowsOf } from "./channels";

const control = (id: string, dials: Control["dials"] = []): Control => ({
  id,
  name: id,
  position: [0, 0, 0],
  rotation: [0, 0, 0, 1],
  order: "YXZ",
  shape: "hoop",
  outline: [],
  dials,
});

const grip = { name: "grip", min: -1, max: 3, default: 1, unit: "kg" };
const roll = { name: "roll", min: -90, max: 90, default: 0, unit: "°" };
const controls = [control("a", [grip]), control("b"), control("c", [roll, grip])];

test("a control's rows are its channels, then its dials with their own unit and rest", () => {
  const rows = rowsOf(controls[2] as Control);
  expect(rows.map((r) => r.channel)).toEqual([
    "moveX",
    "moveY",
    "moveZ",
    "rotateX",
    "rotateY",
    "rotateZ",
    "roll",
    "grip",
  ]);
  expect(rows[3]).toMatchObject({ unit: "°", scale: Math.PI / 180, rest: 0 });
  expect(rows[6]).toMatchObject({ unit: "°", scale: 1, decimals: 1 });
  expect(rows[7]).toMatchObject({ unit: "kg", rest: 1, dial: grip });
});

test("values are read from the frame, each dial from its place among all dials, and typed digits stay", () => {
  const shown = new Float32Array(3 * 18);
  shown.set([1, 2, 3, 4, 5, 6], 2 * 18 + 12);
  const frame = { controls: shown, dials: new Float32Array([7, 8.1, 9]) } as unknown as Frame;
  setState({ specimen: { document: { controls } as unknown as Document } as Specimen, frame, held: {} });
  expect(channelValues(controls[0] as Control).at(-1)).toBe(7);
  expect(channelValues(controls[1] as Control)).toEqual([0, 0, 0, 0, 0, 0]);
  expect(channelValues(controls[2] as Control)).toEqual([1, 2, 3, 4, 5, 6, Math.fround(8.1), 9]);
  setState({ held: { c: { roll: 8.1 } } });
  expect(channelValues(controls[2] as Control)[6]).toBe(8.1);
  setState({ frame: undefined });
  expect(channelValues(controls[0] as Control).at(-1)).toBe(1); // at rest, while no frame has come
});
