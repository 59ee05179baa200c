import type { BufferAttribute, BufferGeometry } from "three";
import { edit, endSculpting, hearSculpted, pose, sculptAt } from "../server/session";
import { handOf, setState, state } from "../state/store";
import type { Sculpting, Tell } from "../wire/wire.gen";
import { rayAt, view } from "./view";

type Done = NonNullable<Tell["sculpted"]>;

/** Clay is what of a part on the stage changes under a hand. */
interface Clay {
  geometry: BufferGeometry;
  /** short shades what stands short of where the hand wants it. */
  short(vertices: number[], shares: number[]): void;
}

const clays = new Map<string, Clay>();

/** sculptsOn has a hand change what is drawn of a part; it returns what ends that. */
export function sculptsOn(part: string, clay: Clay): () => void {
  clays.set(part, clay);
  return () => {
    if (clays.get(part) === clay) clays.delete(part);
  };
}

interface Stroke {
  base: Sculpting;
  begin: boolean;
  busy: boolean;
  next?: { x: number; y: number };
  ended: boolean;
  done?: Done;
  rest?: Float32Array; // the places before, of the geometry that is changed
}

let stroke: Stroke | undefined;

/** sculpting tells whether a hand holds something. */
export const sculpting = (): boolean => !!stroke && !stroke.ended;

/** takeHold puts the hand on its part at a place of the canvas. It tells whether there is a hand. */
export function takeHold(x: number, y: number): boolean {
  const hand = handOf(state());
  if (!hand || stroke) return false;
  if (state().playing) setState({ playing: false });
  const { part, morph, act, reach, strength, mirrored, picked } = hand;
  stroke = { base: { part, morph, act, reach, strength, mirrored, picked }, begin: true, busy: false, ended: false };
  sculptTo(x, y);
  return true;
}

/** sculptTo goes on with the stroke. While the core works only the newest place is kept. */
export function sculptTo(x: number, y: number) {
  if (!stroke || stroke.ended) return;
  if (stroke.busy) {
    stroke.next = { x, y };
    return;
  }
  const { origin, direction } = rayAt(x, y).ray;
  const facing = view.camera?.getWorldDirection(direction.clone()) ?? direction;
  stroke.busy = true;
  sculptAt(
    stroke.base,
    stroke.begin,
    [origin.x, origin.y, origin.z],
    [direction.x, direction.y, direction.z],
    [facing.x, facing.y, facing.z],
  );
  stroke.begin = false;
}

/** letGoOfClay lifts the hand: what it did is kept as one edit when its last place is answered. */
export function letGoOfClay() {
  if (!stroke) return;
  stroke.ended = true;
  if (!stroke.busy) void keep();
}

/** takeSculpted shows what the hand has done, and goes on with the stroke. Nothing was done where the core refused. */
function takeSculpted(done?: Done) {
  if (!stroke) return;
  stroke.busy = false;
  if (!done) {
    showAgain(stroke);
    stroke = undefined;
    return;
  }
  stroke.done = done;
  show(stroke, done);
  const { next } = stroke;
  stroke.next = undefined;
  if (next && !stroke.ended) sculptTo(next.x, next.y);
  else if (stroke.ended) void keep();
}

hearSculpted(takeSculpted);

function show(s: Stroke, done: Done) {
  const clay = clays.get(done.part);
  if (!clay) return;
  const places = clay.geometry.getAttribute("position") as BufferAttribute;
  if (!s.rest || s.rest.length !== places.array.length) s.rest = Float32Array.from(places.array);
  places.copyArray(s.rest);
  done.vertices.forEach((v, i) => {
    const by = done.by[i] ?? [0, 0, 0];
    for (let k = 0; k < 3; k++) places.setComponent(v, k, (s.rest?.[3 * v + k] ?? 0) + done.amount * (by[k] ?? 0));
  });
  places.needsUpdate = true;
  clay.short(done.vertices, done.short);
  pose(); // parts that no skin can say come with the frame
}

/** showAgain shows what is kept. */
function showAgain(s: Stroke) {
  const clay = clays.get(s.base.part);
  const places = clay?.geometry.getAttribute("position") as BufferAttribute | undefined;
  if (s.rest && places?.array.length === s.rest.length) {
    places.copyArray(s.rest);
    places.needsUpdate = true;
  }
  clay?.short([], []);
  pose();
}

async function keep() {
  const s = stroke;
  stroke = undefined;
  if (!s) return;
  const { part, morph } = s.base;
  const { vertices, by } = s.done ?? { vertices: [], by: [] };
  const kept =
    vertices.length > 0 &&
    (await edit({ kind: "reshape-morph", part, morph, vertices, by: by as [number, number, number][] }));
  endSculpting();
  if (!kept) showAgain(s);
}
