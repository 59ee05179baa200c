import { Matrix4, Quaternion, Vector3 } from "three";
import { edit } from "../server/session";
import { documentOf, type Shaping, setState, state } from "../state/store";
import type { Control } from "../wire/rig.gen";
import { controlMatrix, project, rayAt, slidePlane, view } from "./view";

/** AS_IT_IS leaves a shape as it is. */
export const AS_IT_IS: Omit<Shaping, "control"> = { move: [0, 0, 0], turn: [0, 0, 0, 1], size: 1 };

/** middleOf is the middle of a control's outline, in its own frame. */
export function middleOf(control: Control): Vector3 {
  const sum = new Vector3();
  for (const p of control.outline) sum.add(new Vector3(...p));
  return sum.divideScalar(Math.max(1, control.outline.length));
}

/** shapedMatrix is how an outline is drawn while it is being set by hand: sized and turned about its middle, then moved. */
export function shapedMatrix(control: Control, { move, turn, size }: Shaping): Matrix4 {
  const middle = middleOf(control);
  const to = new Vector3(...move).add(middle);
  return new Matrix4()
    .compose(to, new Quaternion(...turn), new Vector3(size, size, size))
    .multiply(new Matrix4().makeTranslation(middle.multiplyScalar(-1)));
}

/** startShaping lets the outline of a control be dragged, or ends that. */
export const startShaping = (control?: string) =>
  setState({ shaping: control ? { control, ...AS_IT_IS } : undefined, asking: undefined, placing: undefined });

/** keepShape makes what the hand did an edit, and goes on from there. */
async function keepShape() {
  const { shaping } = state();
  if (!shaping) return;
  const { control, move, turn, size } = shaping;
  const kept = await edit({ kind: "shape-controls", controls: [control], move, turn, size }, "Shaping");
  if (kept || state().shaping?.control === control) startShaping(control);
}

/** shapeByHand follows a drag of the outline: it moves, with Shift it grows, with Alt it turns as seen. */
export function shapeByHand(id: string, x: number, y: number, grow: boolean, turning: boolean) {
  const { camera, canvas } = view;
  const { frame } = state();
  const d = documentOf();
  const index = d.controls.findIndex((c) => c.id === id);
  const control = d.controls[index];
  if (!camera || !canvas || !frame || !control) return undefined;
  const { width, height } = canvas.getBoundingClientRect();
  const matrix = controlMatrix(new Matrix4(), frame, index);
  const inverse = matrix.clone().invert();
  const middle = middleOf(control).applyMatrix4(matrix);
  const on = project(middle, camera, width, height);
  const plane = slidePlane(middle);
  const grip = rayAt(x, y).ray.intersectPlane(plane, new Vector3()) ?? middle;
  const away = Math.max(4, Math.hypot(x - on.x, y - on.y));
  const from = Math.atan2(y - on.y, x - on.x);
  const axis = camera.getWorldDirection(new Vector3()).transformDirection(inverse).normalize();
  const change = (some: Partial<Shaping>) => setState({ shaping: { control: id, ...AS_IT_IS, ...some } });
  return {
    move(x: number, y: number) {
      if (grow) return change({ size: Math.min(50, Math.max(0.02, Math.hypot(x - on.x, y - on.y) / away)) });
      if (turning) {
        const by = Math.atan2(y - on.y, x - on.x) - from;
        return change({ turn: new Quaternion().setFromAxisAngle(axis, by).toArray() as Shaping["turn"] });
      }
      const at = rayAt(x, y).ray.intersectPlane(plane, new Vector3());
      if (!at) return;
      const own = at.applyMatrix4(inverse).sub(grip.clone().applyMatrix4(inverse));
      change({ move: [own.x, own.y, own.z] });
    },
    end: () => void keepShape(),
  };
}
