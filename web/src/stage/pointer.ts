import { Matrix4, type PerspectiveCamera, Vector3 } from "three";
import { type Aim, CONTROL_STRIDE, type Frame, JOINT_STRIDE } from "../server/live";
import { edit, endPull, notify, pose, seek } from "../server/session";
import { seenState } from "../state/groups";
import { documentOf, setState, state } from "../state/store";
import type { Channel, Control } from "../wire/rig.gen";
import { CHANNELS, turns } from "../work/channels";
import { glideHome, hold } from "../work/motion";
import { KNOBS, reachOf } from "./Handles";
import { shapeByHand } from "./shaping";
import { controlMatrix, placeOf, project, rayAt, slidePlane, view } from "./view";

type Hit = { kind: "knob"; id: string; channel: Channel } | { kind: "control" | "joint" | "part"; id: string };

const NEAR = 9; // pixels

/** distanceToOutline is how far a place on the canvas is from a control's outline as drawn. */
function distanceToOutline(
  control: Control,
  matrix: Matrix4,
  x: number,
  y: number,
  width: number,
  height: number,
): number {
  const camera = view.camera;
  if (!camera) return Infinity;
  let nearest = Infinity;
  let before: { x: number; y: number } | undefined;
  for (const point of [...control.outline, control.outline[0]]) {
    if (!point) continue;
    const at = project(new Vector3(...point).applyMatrix4(matrix), camera, width, height);
    if (!at.ahead) return Infinity;
    if (before) nearest = Math.min(nearest, toSegment(x, y, before, at));
    before = at;
  }
  return nearest;
}

function toSegment(x: number, y: number, a: { x: number; y: number }, b: { x: number; y: number }): number {
  const [dx, dy] = [b.x - a.x, b.y - a.y];
  const share = Math.min(1, Math.max(0, ((x - a.x) * dx + (y - a.y) * dy) / Math.max(dx * dx + dy * dy, 1e-9)));
  return Math.hypot(x - a.x - share * dx, y - a.y - share * dy);
}

function controlsPickable(): boolean {
  const { step, sights } = state();
  return sights.controls === "shown" && step !== "model" && step !== "skeleton";
}

/** pick finds what a click at a place on the canvas would take. */
export function pick(x: number, y: number): Hit | undefined {
  const { camera, canvas, scene } = view;
  const { frame, chosen, sights, step, laying, picking, asking } = state();
  if (!camera || !canvas || !scene || !frame || laying || picking || state().placing) return undefined;
  const { width, height } = canvas.getBoundingClientRect();
  const d = documentOf();
  const near = (place: Vector3) => {
    const at = project(place, camera, width, height);
    return at.ahead ? Math.hypot(at.x - x, at.y - y) : Infinity;
  };
  const may = (id: string) => !asking || asking.ids.includes(id);
  const matrix = new Matrix4();
  if (controlsPickable() && frame.controls.length === d.controls.length * CONTROL_STRIDE) {
    const knob = state().shaping || asking ? undefined : pickKnob(frame, near);
    if (knob) return knob;
    let best: Hit | undefined;
    let nearest = NEAR;
    d.controls.forEach((control, i) => {
      const seen = seenState(control.id);
      if ((frame.idle[i] || seen.sight !== "shown" || seen.locked) && !state().chosen.includes(control.id)) return;
      if (!may(control.id)) return;
      const distance = distanceToOutline(control, controlMatrix(matrix, frame, i), x, y, width, height);
      if (distance < nearest) {
        nearest = distance;
        best = { kind: "control", id: control.id };
      }
    });
    if (best) return best;
  }
  if (sights.skeleton === "shown") {
    let best: Hit | undefined;
    let nearest = NEAR;
    const place = new Vector3();
    d.joints.forEach((joint, i) => {
      const seen = seenState(joint.id);
      if (((seen.sight !== "shown" || seen.locked) && !chosen.includes(joint.id)) || !may(joint.id)) return;
      const distance = near(place.fromArray(frame.joints, i * JOINT_STRIDE + 9));
      if (distance < nearest || (distance === nearest && chosen.includes(joint.id))) {
        nearest = distance;
        best = { kind: "joint", id: joint.id };
      }
    });
    if (best) return best;
  }
  const partsPickable = step === "model" || step === "skin" || d.parts.some((p) => asking?.ids.includes(p.id));
  if (sights.model === "shown" && partsPickable) {
    for (const hit of rayAt(x, y).intersectObjects(scene.children, true)) {
      const id = hit.object.userData.part as string | undefined;
      const seen = seenState(id ?? "");
      if (id && may(id) && seen.sight === "shown" && !seen.locked && !d.parts.find((p) => p.id === id)?.locked)
        return { kind: "part", id };
    }
  }
  return undefined;
}

function pickKnob(frame: Frame, near: (place: Vector3) => number): Hit | undefined {
  const { chosen } = state();
  const d = documentOf();
  const index = d.controls.findIndex((c) => c.id === chosen[0]);
  const control = d.controls[index];
  if (!control || chosen.length !== 1) return undefined;
  const matrix = controlMatrix(new Matrix4(), frame, index);
  if (seenState(control.id).locked) return undefined;
  for (const { channel, place } of KNOBS.filter((k) => !control.channels?.[k.channel]?.locked)) {
    const at = new Vector3(...place).multiplyScalar(1.22 * reachOf(control)).applyMatrix4(matrix);
    if (near(at) < NEAR + 2) return { kind: "knob", id: control.id, channel };
  }
  return undefined;
}

interface Drag {
  move(x: number, y: number): void;
  end(): void;
}

/** channelsOf reads a control's channels from the present frame. */
export function channelsOf(id: string): Record<Channel, number> {
  const index = documentOf().controls.findIndex((c) => c.id === id);
  const at = state().frame?.controls.subarray(index * CONTROL_STRIDE + 12, (index + 1) * CONTROL_STRIDE) ?? [];
  return {
    moveX: at[0] ?? 0,
    moveY: at[1] ?? 0,
    moveZ: at[2] ?? 0,
    rotateX: at[3] ?? 0,
    rotateY: at[4] ?? 0,
    rotateZ: at[5] ?? 0,
  };
}

/** slide follows the pointer in the plane that faces the viewer through a place. */
function slide(place: Vector3, x: number, y: number, to: (place: Vector3) => void): (x: number, y: number) => void {
  const plane = slidePlane(place);
  const grip = rayAt(x, y).ray.intersectPlane(plane, new Vector3()) ?? place.clone();
  const offset = place.clone().sub(grip);
  return (x, y) => {
    const at = rayAt(x, y).ray.intersectPlane(plane, new Vector3());
    if (at) to(at.add(offset));
  };
}

function pullControl(id: string, x: number, y: number): Drag | undefined {
  const place = placeOf(id);
  if (!place) return undefined;
  const before = channelsOf(id);
  let moved = false;
  const move = slide(place, x, y, (to) => {
    moved = true;
    pose({ control: id, to: [to.x, to.y, to.z] });
  });
  return {
    move,
    end() {
      endPull();
      if (!moved) return;
      const now = channelsOf(id);
      const changed = CHANNELS.filter(({ channel }) => turns(channel) && now[channel] !== before[channel]);
      const { moveX, moveY, moveZ } = now; // one that is held on a bar is turned by being dragged
      hold(id, { moveX, moveY, moveZ, ...Object.fromEntries(changed.map(({ channel }) => [channel, now[channel]])) });
      glideHome(id);
    },
  };
}

function turnControl(id: string, channel: Channel, x: number, y: number): Drag | undefined {
  const { camera, canvas } = view;
  const place = placeOf(id);
  const index = documentOf().controls.findIndex((c) => c.id === id);
  const frame = state().frame;
  if (!camera || !canvas || !place || !frame) return undefined;
  const { width, height } = canvas.getBoundingClientRect();
  const middle = project(place, camera, width, height);
  const axis = new Vector3().setFromMatrixColumn(
    controlMatrix(new Matrix4(), frame, index),
    ["rotateX", "rotateY", "rotateZ"].indexOf(channel),
  );
  const hand = documentOf().controls[index]?.mirrored && channel !== "rotateX" ? -1 : 1;
  const sign = (axis.dot(camera.position.clone().sub(place)) >= 0 ? -1 : 1) * hand;
  const angle = (x: number, y: number) => Math.atan2(y - middle.y, x - middle.x);
  let last = angle(x, y);
  let value = channelsOf(id)[channel] ?? 0;
  return {
    move(x, y) {
      const now = angle(x, y);
      const step = now - last;
      last = now;
      value += sign * (step - 2 * Math.PI * Math.round(step / (2 * Math.PI)));
      hold(id, { [channel]: value });
    },
    end: () => glideHome(id),
  };
}

/** aimAt is the aim under a place on the canvas, as the person has chosen to snap. */
function aimAt(x: number, y: number, from?: Vector3, except: string[] = []): Aim {
  const { origin, direction } = rayAt(x, y).ray;
  const facing = view.camera?.getWorldDirection(new Vector3()) ?? new Vector3(0, 0, 1);
  const { snap, gridStep, lock, lockAt } = state();
  return {
    origin: [origin.x, origin.y, origin.z],
    direction: [direction.x, direction.y, direction.z],
    snap,
    from: from ? [from.x, from.y, from.z] : [0, 0, 0],
    facing: [facing.x, facing.y, facing.z],
    step: gridStep,
    lock,
    lockAt,
    except,
  };
}

/** moveJoint moves a joint at rest to where the pointer leads, alone or with what is below. In the volume it moves freely. */
function moveJoint(id: string, x: number, y: number, below: boolean): Drag | undefined {
  const place = placeOf(id);
  if (!place) return undefined;
  const onto = documentOf().joints.find((j) => j.id === id)?.parent;
  const at = project(place, view.camera as PerspectiveCamera, ...sizeOfCanvas());
  const [dx, dy] = [at.x - x, at.y - y]; // the joint does not jump under the pointer
  let to: [number, number, number] | undefined;
  return {
    move(x, y) {
      const free = state().snap === "volume";
      const aim = aimAt(x + dx, y + dy, place, [id]);
      seek(free ? { ...aim, snap: "free" } : aim, (found) => {
        if (!found || !to) return;
        to = found;
        setState({ movingJoint: true, laying: { places: [], pattern: "", count: "", centre: found, onto } });
      });
      to ??= [place.x, place.y, place.z];
    },
    end() {
      const landed = to;
      to = undefined; // an answer that is still under way comes too late
      setState({ laying: undefined, movingJoint: false });
      if (landed) void edit({ kind: "move-joint", joint: id, position: landed, below });
    },
  };
}

function sizeOfCanvas(): [number, number] {
  const box = view.canvas?.getBoundingClientRect();
  return [box?.width ?? 1, box?.height ?? 1];
}

/** onlyTurns is the one channel of a control that can be dragged, where that turns it: a handle on a pin. */
function onlyTurns(id: string): Channel | undefined {
  const control = documentOf().controls.find((c) => c.id === id);
  const free = CHANNELS.filter(({ channel }) => !control?.channels?.[channel]?.locked);
  const [only] = free;
  return only && free.length === 1 && turns(only.channel) ? only.channel : undefined;
}

/** startDrag begins what a press at a place on the canvas takes hold of; undefined leaves the press to the camera. */
export function startDrag(hit: Hit | undefined, x: number, y: number, keys: { alt: boolean; shift: boolean }) {
  if (!hit) return undefined;
  if (state().shaping?.control === hit.id) return shapeByHand(hit.id, x, y, keys.shift, keys.alt);
  if (hit.kind === "knob") return turnControl(hit.id, hit.channel, x, y);
  if (hit.kind === "control") {
    const turning = onlyTurns(hit.id);
    return turning ? turnControl(hit.id, turning, x, y) : pullControl(hit.id, x, y);
  }
  if (hit.kind === "joint" && state().step === "skeleton" && state().chosen.includes(hit.id))
    return moveJoint(hit.id, x, y, !keys.alt);
  return undefined;
}

/** choose selects, adds to the selection, or clears it. */
export function choose(id: string | undefined, add: boolean) {
  const { asking } = state();
  if (asking) {
    if (id && asking.ids.includes(id)) asking.pick(id);
    return;
  }
  setState((s) => {
    if (!id) return add ? {} : { chosen: [] };
    if (!add) return { chosen: [id] };
    return { chosen: s.chosen.includes(id) ? s.chosen.filter((c) => c !== id) : [...s.chosen, id] };
  });
}

/** placeAt asks for the place on the model under the pointer, for what waits for one. */
export function placeAt(x: number, y: number) {
  const { placing } = state();
  if (!placing) return;
  seek({ ...aimAt(x, y), snap: "surface", lock: "" }, (place) => {
    if (!place) return notify("refused", "There is no surface there; click on the model.");
    setState({ placing: undefined });
    placing.take(place);
  });
}

let sought: { x: number; y: number } | undefined;

/** seekCentre shows, while a chain is laid, where the next joint would come: the middle of the volume under the pointer, or what it snaps to. */
export function seekCentre(x: number, y: number) {
  sought = { x, y };
  const { laying } = state();
  const last = laying?.places.at(-1);
  const onto = laying?.onto ? placeOf(laying.onto) : undefined;
  seek(aimAt(x, y, last ? new Vector3(...(last as [number, number, number])) : onto), (centre) =>
    setState((s) => (s.laying ? { laying: { ...s.laying, centre } } : {})),
  );
}

/** seekAgain looks under the resting pointer anew, when the view has moved or the core has come back. */
export function seekAgain() {
  if (sought && state().laying && !state().movingJoint) seekCentre(sought.x, sought.y);
}
