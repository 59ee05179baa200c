import {
  Box3,
  type Camera,
  Euler,
  Matrix4,
  type PerspectiveCamera,
  Plane,
  Raycaster,
  type Scene,
  Vector2,
  Vector3,
} from "three";
import { CONTROL_STRIDE, type Frame, JOINT_STRIDE } from "../server/live";
import { type Fitting, setState, state } from "../state/store";
import { loadMesh } from "./surfaces";

interface OrbitLike {
  target: Vector3;
  enabled: boolean;
  update(): void;
}

/** view is the stage's camera as the rest of the page may use it; the stage fills it in while it is mounted. */
export const view: {
  camera?: PerspectiveCamera;
  orbit?: OrbitLike;
  scene?: Scene;
  canvas?: HTMLElement;
  invalidate?: () => void;
} = {};

const DIRECTIONS = {
  perspective: [0.8, 0.36, 0.62],
  front: [0, 0, 1],
  side: [1, 0, 0],
  top: [0.0001, 1, 0],
} as const;
export type ViewName = keyof typeof DIRECTIONS;

/** UP_TURNS are the turns, about X, Y and Z, that bring an axis of a model up, and FACINGS those about the vertical that bring one ahead. */
const UP_TURNS = { y: [0, 0, 0], z: [-Math.PI / 2, 0, 0], x: [0, 0, Math.PI / 2] } as const;
const FACINGS = { z: 0, "-z": Math.PI, x: -Math.PI / 2, "-x": Math.PI / 2 } as const;

/** ROD_ASIDE is how far, in metres, the measuring rod stands beside the middle while a model is fitted. */
export const ROD_ASIDE = 0.6;

/** fitMatrix is how a model is shown while it is about to be fitted: as the core will fit it. */
export function fitMatrix({ scale, up, faces, ground, move, box }: Fitting): Matrix4 {
  const m = new Matrix4().makeRotationY(FACINGS[faces]);
  m.multiply(new Matrix4().makeRotationFromEuler(new Euler(...UP_TURNS[up]))).scale(new Vector3(scale, scale, scale));
  const to = new Vector3(...move);
  if (ground && box) {
    const now = new Box3(new Vector3(...box.min), new Vector3(...box.max)).applyMatrix4(m);
    const middle = now.getCenter(new Vector3());
    to.sub(new Vector3(middle.x, now.min.y, middle.z));
  }
  return m.setPosition(to);
}

/** fitted is a box as the model would be fitted, with the rod of 1.8 m beside it. */
function fitted(box: Box3, fitting: Fitting): Box3 {
  box.applyMatrix4(fitMatrix(fitting));
  return box.expandByPoint(new Vector3(-ROD_ASIDE, 0, 0)).expandByPoint(new Vector3(-ROD_ASIDE, 1.8, 0));
}

/** LEAST_SEEN is how much of the whole specimen is seen at least when something in it is looked at, and FILLS how much of the picture it fills. */
const LEAST_SEEN = 0.15;
const FILLS = 0.9;

/** restBox is what parts, joints and controls take up at rest: all of the model and skeleton, or what is named. */
async function restBox(only: string[]): Promise<{ joints: Box3; all: Box3 }> {
  const [joints, all] = [new Box3(), new Box3()];
  const { specimen } = state();
  if (!specimen) return { joints, all };
  const d = specimen.document;
  const wanted = (id: string) => only.length === 0 || only.includes(id);
  for (const joint of d.joints) if (wanted(joint.id)) joints.expandByPoint(new Vector3(...joint.position));
  all.union(joints);
  for (const control of d.controls) if (only.includes(control.id)) all.expandByPoint(new Vector3(...control.position));
  const shown = d.parts.filter((p) => wanted(p.id) && (only.length > 0 || p.sight !== "hidden"));
  await Promise.all(
    shown.map(async (p) => {
      const geometry = await loadMesh(specimen.id, p.mesh).catch(() => undefined);
      if (geometry?.boundingBox) all.union(geometry.boundingBox);
    }),
  );
  return { joints, all };
}

/** posedBox is what is seen now: joints and controls where they stand, with as much about them as the body has at rest. */
function posedBox(only: string[], joints: Box3, all: Box3): Box3 {
  const { frame, specimen, step } = state();
  if (!frame || !specimen || step === "model" || step === "skeleton") return all;
  const posed = new Box3();
  const d = specimen.document;
  d.joints.forEach((joint, i) => {
    if (only.length === 0 || only.includes(joint.id))
      posed.expandByPoint(new Vector3().fromArray(frame.joints, i * JOINT_STRIDE + 9));
  });
  if (!posed.isEmpty()) {
    posed.min.add(all.min).sub(joints.min);
    posed.max.add(all.max).sub(joints.max);
  }
  d.controls.forEach((control, i) => {
    if (only.includes(control.id)) posed.expandByPoint(new Vector3().fromArray(frame.controls, i * CONTROL_STRIDE + 9));
  });
  return posed.isEmpty() ? all : posed;
}

/** distanceTo is how far from the middle of a box a camera stands that sees all of it in a direction. */
function distanceTo(box: Box3, camera: PerspectiveCamera, direction: Vector3): number {
  const forward = direction.clone().normalize().negate();
  const right = forward.clone().cross(camera.up).normalize();
  const up = right.clone().cross(forward);
  const tall = Math.tan((camera.fov * Math.PI) / 360) * FILLS;
  const middle = box.getCenter(new Vector3());
  let distance = 0;
  for (const x of [box.min.x, box.max.x])
    for (const y of [box.min.y, box.max.y])
      for (const z of [box.min.z, box.max.z]) {
        const corner = new Vector3(x, y, z).sub(middle);
        const wide = Math.abs(corner.dot(right)) / (tall * camera.aspect);
        distance = Math.max(distance, Math.max(wide, Math.abs(corner.dot(up)) / tall) - corner.dot(forward));
      }
  return distance;
}

/** thingsOf is what of a specimen has a place: a mechanism's joints and controls, a group's members, or the thing itself. */
function thingsOf(id: string): string[] {
  const d = state().specimen?.document;
  const mechanism = d?.mechanisms.find((m) => m.id === id);
  if (mechanism) return [...mechanism.joints, ...mechanism.controls, ...(mechanism.homes ?? [])];
  return d?.groups.find((g) => g.id === id)?.members ?? [id];
}

/** look frames the whole specimen, or what is chosen, from the direction named or the present one, as it stands now. */
export async function look(name?: ViewName, chosen: string[] = []) {
  const { camera, orbit } = view;
  if (!camera || !orbit || !state().specimen) return;
  const only = chosen.flatMap(thingsOf);
  const { joints, all } = await restBox(only);
  if (only.length === 0) setState({ size: all.isEmpty() ? 2 : all.getSize(new Vector3()).length() || 1 });
  const box = posedBox(only, joints, all);
  if (box.isEmpty()) box.set(new Vector3(-1, 0, -1), new Vector3(1, 1, 1));
  const { fitting } = state();
  if (fitting) fitted(box, fitting);
  const least = only.length > 0 ? LEAST_SEEN * state().size : 0; // a single joint has no size, and is looked at with what is around it
  const short = least - box.getSize(new Vector3()).length();
  if (short > 0) box.expandByScalar(short / 2 / Math.sqrt(3));
  const middle = box.getCenter(new Vector3());
  const direction = name ? new Vector3(...DIRECTIONS[name]) : camera.position.clone().sub(orbit.target);
  if (direction.lengthSq() === 0) direction.set(...DIRECTIONS.perspective);
  const distance = distanceTo(box, camera, direction) || 1;
  camera.position.copy(middle).addScaledVector(direction.normalize(), distance);
  camera.near = distance / 200;
  camera.far = distance * 60;
  camera.updateProjectionMatrix();
  orbit.target.copy(middle);
  orbit.update();
  camera.updateMatrixWorld(); // what is asked before the next picture is drawn must see the new place
  view.invalidate?.();
}

/** project gives where a place in the world is on the canvas, in CSS pixels from its corner. */
export function project(place: Vector3, camera: Camera, width: number, height: number) {
  const p = place.clone().project(camera);
  return { x: ((p.x + 1) / 2) * width, y: ((1 - p.y) / 2) * height, ahead: p.z < 1 };
}

/** controlMatrix writes where a control is now into a matrix. */
export function controlMatrix(m: Matrix4, frame: Frame, index: number) {
  const at = index * CONTROL_STRIDE;
  const [ax = 1, ay = 0, az = 0, bx = 0, by = 1, bz = 0, cx = 0, cy = 0, cz = 1, px = 0, py = 0, pz = 0] =
    frame.controls.subarray(at, at + 12);
  return m.set(ax, bx, cx, px, ay, by, cy, py, az, bz, cz, pz, 0, 0, 0, 1);
}

/** rayAt is the ray under a place on the canvas. */
export function rayAt(x: number, y: number) {
  const caster = new Raycaster();
  const { camera, canvas } = view;
  if (camera && canvas) {
    const box = canvas.getBoundingClientRect();
    caster.setFromCamera(new Vector2((x / box.width) * 2 - 1, 1 - (y / box.height) * 2), camera);
  }
  return caster;
}

/** slidePlane is the plane through a place that faces the viewer. */
export function slidePlane(place: Vector3): Plane {
  const facing = view.camera?.getWorldDirection(new Vector3()) ?? new Vector3(0, 0, 1);
  return new Plane().setFromNormalAndCoplanarPoint(facing, place);
}

/** placeOf is where a joint or control is now. */
export function placeOf(id: string): Vector3 | undefined {
  const { frame, specimen } = state();
  if (!frame || !specimen) return undefined;
  const d = specimen.document;
  const joint = d.joints.findIndex((j) => j.id === id);
  if (joint >= 0) return new Vector3().fromArray(frame.joints, joint * JOINT_STRIDE + 9);
  const control = d.controls.findIndex((c) => c.id === id);
  if (control >= 0) return new Vector3().fromArray(frame.controls, control * CONTROL_STRIDE + 9);
  return undefined;
}
