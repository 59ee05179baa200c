import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import { Group, Mesh, MeshBasicMaterial, SphereGeometry, Vector2 } from "three";
import { Line2 } from "three/addons/lines/Line2.js";
import { LineGeometry } from "three/addons/lines/LineGeometry.js";
import { LineMaterial } from "three/addons/lines/LineMaterial.js";
import { CONTROL_STRIDE, type Frame } from "../server/live";
import { seenState } from "../state/groups";
import { useMyriapod } from "../state/store";
import type { Control, Document } from "../wire/rig.gen";
import { INKS } from "./Skeleton";
import { shapedMatrix } from "./shaping";
import { sideOf } from "./side";
import { controlMatrix } from "./view";

/** KNOBS are the turning handles of the chosen control: the channel each turns, where it sits in the control's frame, its ink. */
export const KNOBS = [
  { channel: "rotateY", place: [0, 0, 1], ink: INKS.violet },
  { channel: "rotateX", place: [0, 1, 0], ink: INKS.L },
  { channel: "rotateZ", place: [1, 0, 0], ink: INKS.R },
] as const;

/** LOCKED is the ink of what a group locks. */
const LOCKED = "#63645f";

/** reachOf is how far a control's outline goes from its middle, in metres. */
export const reachOf = (control: Control) => Math.max(0.02, ...control.outline.map((p) => Math.hypot(...p)));

function makeHandle(control: Control) {
  const group = new Group();
  group.matrixAutoUpdate = false;
  const points = [...control.outline, control.outline[0] ?? [0, 0, 0]].flat();
  const geometry = new LineGeometry().setPositions(points);
  const front = new LineMaterial({ linewidth: 2.6 });
  const behind = new LineMaterial({ linewidth: 1.6, depthTest: false, transparent: true, opacity: 0.3 });
  const outline = new Group();
  outline.matrixAutoUpdate = false;
  group.add(outline);
  for (const material of [behind, front]) {
    const line = new Line2(geometry, material);
    line.raycast = () => {};
    line.renderOrder = material === behind ? 22 : 23;
    line.frustumCulled = false;
    outline.add(line);
  }
  const knobs = new Group();
  const reach = reachOf(control);
  for (const { place, ink } of KNOBS) {
    const material = new MeshBasicMaterial({ color: ink, depthTest: false });
    const knob = new Mesh(new SphereGeometry(0.055 * reach + 0.006, 14, 10), material);
    knob.position.set(place[0], place[1], place[2]).multiplyScalar(1.22 * reach);
    const stem = new Line2(
      new LineGeometry().setPositions([
        ...knob.position.clone().multiplyScalar(0.8).toArray(),
        ...knob.position.toArray(),
      ]),
      new LineMaterial({ color: ink, linewidth: 1.6, depthTest: false }),
    );
    for (const object of [knob, stem]) {
      object.renderOrder = 24;
      object.raycast = () => {};
      object.frustumCulled = false;
      knobs.add(object);
    }
  }
  group.add(knobs);
  return { group, outline, front, behind, knobs };
}

/** Handles draws the controls as collars and pennants; the chosen one shows its turning knobs. */
export function Handles({ document }: { document: Document }) {
  const { invalidate, size } = useThree();
  const sight = useMyriapod((s) => s.sights.controls);
  const chosen = useMyriapod((s) => s.chosen);
  const hovered = useMyriapod((s) => s.hovered);
  const asked = useMyriapod((s) => s.asking?.ids);
  const step = useMyriapod((s) => s.step);
  const states = useMyriapod((s) => s.specimen?.survey.states);
  const handles = useMemo(() => document.controls.map(makeHandle), [document.controls]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: states are read by what tells how each is seen
  useEffect(() => {
    document.controls.forEach((control, i) => {
      const handle = handles[i];
      if (!handle) return;
      const lit = chosen.includes(control.id) || !!asked?.includes(control.id);
      const side = sideOf(control.id);
      const seen = seenState(control.id);
      const own = seen.locked ? LOCKED : control.colour || seen.colour || (side === "C" ? INKS.control : INKS[side]);
      const ink = lit ? INKS.violet : hovered === control.id ? INKS.finding : own;
      for (const material of [handle.front, handle.behind]) {
        material.color.set(ink);
        material.resolution = new Vector2(size.width, size.height);
      }
      handle.front.linewidth = lit || hovered === control.id ? 3.8 : 2.6;
      const ghost = sight === "ghost" || seen.sight === "ghost";
      handle.front.transparent = ghost;
      handle.front.opacity = ghost ? 0.35 : 1;
      handle.knobs.visible =
        !useMyriapod.getState().shaping && chosen.length === 1 && chosen[0] === control.id && !asked && !seen.locked;
      // A knob that would turn nothing is not there.
      KNOBS.forEach(({ channel }, k) => {
        const there = !control.channels?.[channel]?.locked;
        for (const object of handle.knobs.children.slice(2 * k, 2 * k + 2)) object.visible = there;
      });
      for (const knob of handle.knobs.children) {
        if (knob instanceof Line2) knob.material.resolution = new Vector2(size.width, size.height);
      }
    });
    invalidate();
  }, [handles, document.controls, states, chosen, hovered, asked, sight, size, invalidate]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: states and the step are read by what tells how each is seen
  useEffect(() => {
    const show = (frame?: Frame) => {
      if (!frame || frame.controls.length !== document.controls.length * CONTROL_STRIDE) return;
      handles.forEach((handle, i) => {
        controlMatrix(handle.group.matrix, frame, i);
        // One that moves nothing now stands back, so that only the handles in use are seen.
        const id = document.controls[i]?.id ?? "";
        handle.group.visible = (!frame.idle[i] && seenState(id).sight !== "hidden") || chosen.includes(id);
        handle.group.matrixWorldNeedsUpdate = true;
      });
      invalidate();
    };
    show(useMyriapod.getState().frame);
    return useMyriapod.subscribe((s, before) => s.frame !== before.frame && show(s.frame));
  }, [handles, document.controls, states, step, chosen, invalidate]);

  const shaping = useMyriapod((s) => s.shaping);
  useEffect(() => {
    document.controls.forEach((control, i) => {
      const outline = handles[i]?.outline;
      if (!outline) return;
      if (shaping?.control === control.id) outline.matrix.copy(shapedMatrix(control, shaping));
      else outline.matrix.identity();
      outline.matrixWorldNeedsUpdate = true;
    });
    invalidate();
  }, [handles, document.controls, shaping, invalidate]);

  if (sight === "hidden" || step === "model" || step === "skeleton") return null;
  return handles.map((handle, i) => <primitive key={document.controls[i]?.id} object={handle.group} />);
}

/** Curves draws the line that each chain rides on, as many as the frame has. */
export function Curves() {
  const { invalidate, size } = useThree();
  const sight = useMyriapod((s) => s.sights.curves);
  const step = useMyriapod((s) => s.step);
  const count = useMyriapod((s) => s.frame?.curves.length ?? 0);
  const lines = useMemo(
    () =>
      Array.from({ length: count }, () => {
        const line = new Line2(
          new LineGeometry(),
          new LineMaterial({ color: INKS.violet, linewidth: 1.5, depthTest: false, transparent: true }),
        );
        line.renderOrder = 19;
        line.frustumCulled = false;
        line.raycast = () => {};
        return line;
      }),
    [count],
  );
  useEffect(() => {
    const show = (frame?: Frame) => {
      if (!frame) return;
      lines.forEach((line, i) => {
        line.geometry.setPositions(frame.curves[i]?.points ?? new Float32Array());
        line.material.resolution = new Vector2(size.width, size.height);
        line.material.opacity = sight === "ghost" ? 0.3 : 0.85;
      });
      invalidate();
    };
    show(useMyriapod.getState().frame);
    return useMyriapod.subscribe((s, before) => s.frame !== before.frame && show(s.frame));
  }, [lines, sight, size, invalidate]);
  if (sight === "hidden" || step === "model" || step === "skeleton") return null;
  return lines.map((line, i) => (
    // biome-ignore lint/suspicious/noArrayIndexKey: a curve has no name but its place
    <primitive key={i} object={line} />
  ));
}
