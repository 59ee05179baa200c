import { useEffect } from "react";
import { Matrix4, Quaternion, Vector3 } from "three";
import { type Frame, JOINT_STRIDE } from "../server/live";
import { setState, state, useMyriapod } from "../state/store";
import type { Sway } from "../wire/mechanism.gen";
import type { Joint } from "../wire/rig.gen";

/** How far what is loose is shown to move: as a share of the specimen, in radians, and how often a second. */
const REACH = 0.05;
const TURN = 0.4;
const PACE = 0.6;

/** heldBy tells for each joint which of the swaying ones it goes with: itself, or the nearest that it hangs on. */
function heldBy(joints: Joint[], sways: Sway[]): (Sway | undefined)[] {
  const at = new Map(joints.map((j, i) => [j.id, i]));
  const own = new Map(sways.map((s) => [s.joint, s]));
  return joints.map((joint) => {
    for (let j: Joint | undefined = joint; j; j = joints[at.get(j.parent ?? "") ?? -1]) {
      const sway = own.get(j.id);
      if (sway) return sway;
    }
    return undefined;
  });
}

/** swayed is a frame in which what is loose, and what hangs on it, has gone a share of how far it is shown to move. */
export function swayed(frame: Frame, joints: Joint[], sways: Sway[], share: number, size: number): Frame {
  const held = heldBy(joints, sways);
  const place = (i: number) => new Vector3().fromArray(frame.joints, i * JOINT_STRIDE + 9);
  let fastest = 0;
  let most = 0;
  held.forEach((sway, i) => {
    if (!sway) return;
    const turn = new Vector3(...sway.turn);
    const way = turn.clone().cross(place(i).sub(new Vector3(...sway.through)));
    fastest = Math.max(fastest, way.add(new Vector3(...sway.move)).length());
    most = Math.max(most, turn.length());
  });
  const far = share * Math.min((REACH * size) / (fastest || Infinity), TURN / (most || Infinity));
  const moved = new Float32Array(frame.joints);
  held.forEach((sway, i) => {
    if (!sway) return;
    const turn = new Vector3(...sway.turn);
    const by = new Quaternion().setFromAxisAngle(turn.clone().normalize(), far * turn.length());
    const through = new Vector3(...sway.through);
    const motion = new Matrix4()
      .makeTranslation(through.clone().addScaledVector(new Vector3(...sway.move), far))
      .multiply(new Matrix4().makeRotationFromQuaternion(by))
      .multiply(new Matrix4().makeTranslation(through.negate()));
    for (let axis = 0; axis < 3; axis++)
      new Vector3()
        .fromArray(moved, i * JOINT_STRIDE + 3 * axis)
        .applyQuaternion(by)
        .toArray(moved, i * JOINT_STRIDE + 3 * axis);
    place(i)
      .applyMatrix4(motion)
      .toArray(moved, i * JOINT_STRIDE + 9);
  });
  return { ...frame, joints: moved };
}

/** Swaying moves what a refusal says is loose to and fro, as long as that stands there. */
export function Swaying() {
  const sways = useMyriapod((s) => s.notices.findLast((n) => n.sways)?.sways);
  useEffect(() => {
    if (!sways) return;
    const calm = matchMedia("(prefers-reduced-motion: reduce)").matches;
    let base = state().frame;
    let shown: Frame | undefined;
    const begin = performance.now();
    const step = (now: number) => {
      const { frame, specimen, size } = state();
      if (frame !== shown) base = frame;
      const share = calm ? 1 : Math.sin((2 * Math.PI * PACE * (now - begin)) / 1000);
      if (base && specimen) {
        shown = swayed(base, specimen.document.joints, sways, share, size);
        setState({ frame: shown });
      }
      asked = requestAnimationFrame(step);
    };
    let asked = requestAnimationFrame(step);
    return () => {
      cancelAnimationFrame(asked);
      if (base && state().frame === shown) setState({ frame: base });
    };
  }, [sways]);
  return null;
}
