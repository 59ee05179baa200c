import { useThree } from "@react-three/fiber";
import { useEffect, useMemo, useState } from "react";
import { BufferAttribute, BufferGeometry, LineBasicMaterial, LineSegments, Matrix4 } from "three";
import { api } from "../server/api";
import { CONTROL_STRIDE, type Frame } from "../server/live";
import { attempt } from "../server/session";
import { useMyriapod } from "../state/store";
import type { Stop } from "../wire/mechanism.gen";
import type { Control, Document } from "../wire/rig.gen";
import { reachOf } from "./Handles";
import { controlMatrix } from "./view";

const AXES = ["X", "Y", "Z"] as const;

/** useStops asks the core how far handles go, anew after every edit. */
function useStops(specimen: string): Stop[] {
  const sequence = useMyriapod((s) => s.specimen?.sequence);
  const [stops, setStops] = useState<Stop[]>([]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: every edit may change how far bars reach
  useEffect(() => {
    let gone = false;
    void attempt(() => api.stops(specimen)).then((list) => {
      if (!gone && list) setStops(list);
    });
    return () => {
      gone = true;
    };
  }, [specimen, sequence]);
  return stops;
}

/** hatching is a row of strokes from one end of a travel to the other, and a longer one at each end. */
function hatching(control: Control, { channel, low, high }: Stop): LineSegments {
  const reach = reachOf(control);
  const turns = channel.startsWith("rotate");
  const [from, to] = turns ? [Math.max(low, -2 * Math.PI), Math.min(high, 2 * Math.PI)] : [low, high];
  const strokes = 48;
  const points: number[] = [];
  for (let k = 0; k <= strokes; k++) {
    const at = from + ((to - from) * k) / strokes;
    const end = k === 0 || k === strokes;
    const [inner, outer] = end ? [0.8 * reach, 1.7 * reach] : [1.1 * reach, 1.34 * reach];
    for (const radius of [inner, outer])
      if (turns) points.push(radius * Math.sin(at), 0, radius * Math.cos(at));
      else points.push(radius, at, 0);
  }
  const geometry = new BufferGeometry().setAttribute("position", new BufferAttribute(new Float32Array(points), 3));
  const lines = new LineSegments(
    geometry,
    new LineBasicMaterial({ color: "#23292c", depthTest: false, transparent: true, opacity: 0.7 }),
  );
  lines.renderOrder = 21;
  lines.raycast = () => {};
  lines.frustumCulled = false;
  lines.matrixAutoUpdate = false;
  return lines;
}

/** towards turns what is drawn about, or along, Y to the axis of a channel. */
function towards(channel: string): Matrix4 {
  const axis = AXES.indexOf(channel.slice(-1) as (typeof AXES)[number]);
  return axis === 0
    ? new Matrix4().makeRotationZ(-Math.PI / 2)
    : axis === 2
      ? new Matrix4().makeRotationX(Math.PI / 2)
      : new Matrix4();
}

/** Stops shows how far the chosen handles go, as hatching between their stops. */
export function Stops({ document, specimen }: { document: Document; specimen: string }) {
  const stops = useStops(specimen);
  const chosen = useMyriapod((s) => s.chosen);
  const step = useMyriapod((s) => s.step);
  const invalidate = useThree((three) => three.invalidate);
  const shown = useMemo(
    () =>
      stops.flatMap((stop) => {
        const index = document.controls.findIndex((c) => c.id === stop.control);
        const control = document.controls[index];
        if (!control || !chosen.includes(stop.control)) return [];
        return [{ stop, index, hand: control.mirrored ? -1 : 1, lines: hatching(control, stop) }];
      }),
    [stops, chosen, document.controls],
  );
  useEffect(() => {
    const show = (frame?: Frame) => {
      if (!frame) return;
      for (const { stop, index, hand, lines } of shown) {
        if (frame.controls.length < (index + 1) * CONTROL_STRIDE) continue;
        const turns = stop.channel.startsWith("rotate");
        const axis = AXES.indexOf(stop.channel.slice(-1) as (typeof AXES)[number]);
        const now = frame.controls[index * CONTROL_STRIDE + 12 + (turns ? 3 : 0) + axis] ?? 0;
        // The strokes stand where the handle's home is, and not with the handle.
        const back = turns ? new Matrix4().makeRotationY(-now * hand) : new Matrix4().makeTranslation(0, -now, 0);
        controlMatrix(lines.matrix, frame, index).multiply(towards(stop.channel)).multiply(back);
        lines.matrixWorldNeedsUpdate = true;
      }
      invalidate();
    };
    show(useMyriapod.getState().frame);
    return useMyriapod.subscribe((s, before) => s.frame !== before.frame && show(s.frame));
  }, [shown, invalidate]);
  useEffect(
    () => () => {
      for (const { lines } of shown) lines.geometry.dispose();
    },
    [shown],
  );
  if (step === "model" || step === "skeleton") return null;
  return shown.map(({ stop, lines }) => <primitive key={`${stop.control} ${stop.channel}`} object={lines} />);
}
