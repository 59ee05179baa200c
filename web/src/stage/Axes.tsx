import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import { BufferAttribute, BufferGeometry, LineBasicMaterial, LineSegments } from "three";
import { type Frame, JOINT_STRIDE } from "../server/live";
import { useMyriapod } from "../state/store";
import type { Document } from "../wire/rig.gen";

/** Axes are drawn for so many joints at most. */
const MOST = 64;
const INK: [number, number, number][] = [
  [0.54, 0.54, 0.5], // third
  [0.14, 0.16, 0.17], // main
  [0.36, 0.29, 0.69], // second
];

/** Axes draws the main (ink), second (violet) and third (grey) axes of the joint under the pointer and of the chosen ones. */
export function Axes({ document }: { document: Document }) {
  const invalidate = useThree((three) => three.invalidate);
  const chosen = useMyriapod((s) => s.chosen);
  const hovered = useMyriapod((s) => s.hovered);
  const size = useMyriapod((s) => s.size);
  const step = useMyriapod((s) => s.step);
  const index = useMemo(() => new Map(document.joints.map((j, i) => [j.id, i])), [document.joints]);
  const joints = useMemo(
    () =>
      [...new Set(hovered ? [hovered, ...chosen] : chosen)]
        .map((id) => index.get(id))
        .filter((i) => i !== undefined)
        .slice(0, MOST),
    [chosen, hovered, index],
  );
  const lines = useMemo(() => {
    const geometry = new BufferGeometry();
    geometry.setAttribute("position", new BufferAttribute(new Float32Array(18 * MOST), 3));
    const colours = new Float32Array(18 * MOST);
    for (let i = 0; i < 6 * MOST; i++) colours.set(INK[(i >> 1) % 3] ?? [0, 0, 0], 3 * i);
    geometry.setAttribute("color", new BufferAttribute(colours, 3));
    const made = new LineSegments(
      geometry,
      new LineBasicMaterial({ vertexColors: true, depthTest: false, transparent: true }),
    );
    made.renderOrder = 25;
    made.frustumCulled = false;
    made.raycast = () => {};
    return made;
  }, []);
  useEffect(() => {
    const show = (frame?: Frame) => {
      if (!frame) return;
      const place = lines.geometry.getAttribute("position") as BufferAttribute;
      const length = 0.05 * size;
      joints.forEach((joint, k) => {
        const m = frame.joints.subarray(joint * JOINT_STRIDE, (joint + 1) * JOINT_STRIDE);
        const [x = 0, y = 0, z = 0] = m.subarray(9);
        for (let axis = 0; axis < 3; axis++) {
          const [ax = 0, ay = 0, az = 0] = m.subarray(3 * axis, 3 * axis + 3);
          const reach = length * (axis === 1 ? 1.3 : 0.8);
          place.setXYZ(6 * k + 2 * axis, x, y, z);
          place.setXYZ(6 * k + 2 * axis + 1, x + reach * ax, y + reach * ay, z + reach * az);
        }
      });
      place.needsUpdate = true;
      lines.geometry.setDrawRange(0, 6 * joints.length);
      invalidate();
    };
    show(useMyriapod.getState().frame);
    return useMyriapod.subscribe((s, before) => s.frame !== before.frame && show(s.frame));
  }, [lines, joints, size, invalidate]);
  if (step !== "skeleton" && step !== "mechanisms") return null;
  return <primitive object={lines} />;
}
