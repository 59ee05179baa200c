import { useThree } from "@react-three/fiber";
import { useEffect, useMemo, useState } from "react";
import {
  BufferAttribute,
  BufferGeometry,
  DoubleSide,
  EdgesGeometry,
  Group,
  LineBasicMaterial,
  LineSegments,
  Matrix4,
  Mesh,
  MeshLambertMaterial,
  Quaternion,
  Vector3,
} from "three";
import { api } from "../server/api";
import type { Frame } from "../server/live";
import { attempt } from "../server/session";
import { useMyriapod } from "../state/store";
import type { Control, Document } from "../wire/rig.gen";
import { dialsBefore } from "../work/channels";
import { controlMatrix } from "./view";

/** restOf is where a control is at home. */
const restOf = (control: Control) => {
  const [x, y, z, w] = control.rotation;
  return new Matrix4().makeRotationFromQuaternion(new Quaternion(x, y, z, w)).setPosition(...control.position);
};

/** useGround loads what is seen of the ground, anew where something changed that it hangs on. */
function useGround(document: Document, specimen: string): BufferGeometry | undefined {
  const [geometry, setGeometry] = useState<BufferGeometry>();
  const sequence = useMyriapod((s) => s.specimen?.sequence);
  const there = document.mechanisms.some((m) => m.kind === "ground" && m.on);
  // biome-ignore lint/correctness/useExhaustiveDependencies: every edit may change where the specimen stands
  useEffect(() => {
    let gone = false;
    if (!there) setGeometry(undefined);
    else
      void attempt(() => api.ground(specimen)).then((seen) => {
        if (gone || !seen) return;
        const made = new BufferGeometry();
        made.setAttribute("position", new BufferAttribute(new Float32Array(seen.positions), 3));
        made.setIndex(seen.triangles);
        made.computeVertexNormals();
        setGeometry(seen.triangles.length > 0 ? made : undefined);
      });
    return () => {
      gone = true;
    };
  }, [specimen, there, sequence]);
  useEffect(() => () => geometry?.dispose(), [geometry]);
  return geometry;
}

/** Ground is what the specimen stands on, where that is no part of the model. It goes along with the global control. */
export function Ground({ document, specimen }: { document: Document; specimen: string }) {
  const sight = useMyriapod((s) => s.sights.helpers);
  const invalidate = useThree((three) => three.invalidate);
  const geometry = useGround(document, specimen);
  const global = useMyriapod((s) => s.specimen?.survey.global);
  const at = document.controls.findIndex((c) => c.id === global);
  const objects = useMemo(() => {
    if (!geometry) return undefined;
    const group = new Group();
    const sheet = new Mesh(
      geometry,
      new MeshLambertMaterial({
        color: "#e6dcc2",
        side: DoubleSide,
        polygonOffset: true,
        polygonOffsetFactor: 2,
        polygonOffsetUnits: 2,
      }),
    );
    sheet.receiveShadow = true;
    const edges = new LineSegments(new EdgesGeometry(geometry, 1), new LineBasicMaterial({ color: "#a8966c" }));
    for (const object of [sheet, edges]) object.raycast = () => {};
    group.add(sheet, edges);
    group.matrixAutoUpdate = false;
    return group;
  }, [geometry]);

  useEffect(() => {
    const control = document.controls[at];
    if (!objects) return;
    const back = control ? restOf(control).invert() : new Matrix4();
    const scale = control?.dials?.findIndex((d) => d.name === "scale") ?? -1;
    const show = (frame?: Frame) => {
      if (frame && control && frame.controls.length > at * 18) {
        const size = scale < 0 ? 1 : (frame.dials[dialsBefore(document.controls, at) + scale] ?? 1);
        controlMatrix(objects.matrix, frame, at).scale(new Vector3(size, size, size));
        objects.matrix.multiply(back);
      }
      objects.matrixWorldNeedsUpdate = true;
      invalidate();
    };
    show(useMyriapod.getState().frame);
    return useMyriapod.subscribe((s, before) => s.frame !== before.frame && show(s.frame));
  }, [objects, document, at, invalidate]);

  if (!objects || sight === "hidden") return null;
  return <primitive object={objects} />;
}
