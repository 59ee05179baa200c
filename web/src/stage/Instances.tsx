import { useThree } from "@react-three/fiber";
import { useEffect, useMemo, useState } from "react";
import { type BufferGeometry, DoubleSide, InstancedMesh, Matrix3, Matrix4, MeshLambertMaterial } from "three";
import { attempt } from "../server/session";
import { useMyriapod } from "../state/store";
import type { Document, Part } from "../wire/rig.gen";
import { loadMesh } from "./surfaces";

/** Instances draws the parts that mechanisms draw many times, where the core's frames have them. */
export function Instances({ document, specimen }: { document: Document; specimen: string }) {
  const sets = useMyriapod(
    (s) => s.frame?.instances.map((set) => `${set.part}:${set.count}:${set.instead ? 1 : 0}`).join(" ") ?? "",
  );
  if (!sets) return null;
  return sets.split(" ").map((key, set) => {
    const [part, count, instead] = key.split(":").map(Number);
    const drawn = document.parts[part ?? -1];
    if (!drawn) return null;
    const name = `${set} ${key}`; // a set has no name but its place
    return <InstanceSet key={name} set={set} part={drawn} count={count ?? 0} instead={!!instead} specimen={specimen} />;
  });
}

const ACROSS = new Matrix4().makeScale(-1, 1, 1);

/** mirroredSet tells whether a set is of mirror images: all of one set are, or none. */
function mirroredSet(set: number): boolean {
  const m = useMyriapod.getState().frame?.instances[set]?.matrices;
  if (!m || m.length < 9) return false;
  return new Matrix3().fromArray(m.subarray(0, 9)).determinant() < 0;
}

function InstanceSet({
  set,
  part,
  count,
  instead,
  specimen,
}: {
  set: number;
  part: Part;
  count: number;
  instead: boolean;
  specimen: string;
}) {
  const [geometry, setGeometry] = useState<BufferGeometry>();
  const invalidate = useThree((three) => three.invalidate);
  const sight = useMyriapod((s) => s.sights.model);
  useEffect(() => {
    let gone = false;
    void attempt(async () => {
      const loaded = await loadMesh(specimen, part.mesh);
      if (!gone) setGeometry(loaded);
    });
    return () => {
      gone = true;
    };
  }, [specimen, part.mesh]);
  const mirrored = useMyriapod(() => mirroredSet(set));
  const mesh = useMemo(() => {
    if (!geometry) return undefined;
    const made = new InstancedMesh(geometry, new MeshLambertMaterial({ side: DoubleSide, color: part.colour }), count);
    made.frustumCulled = false;
    made.scale.x = mirrored ? -1 : 1; // three.js turns the faces of a whole set round, not of one instance
    made.castShadow = true;
    if (instead) made.userData.part = part.id;
    else made.raycast = () => {};
    made.userData.instances = part.id;
    return made;
  }, [geometry, count, instead, mirrored, part.colour, part.id]);
  useEffect(() => {
    if (!mesh) return;
    const matrix = new Matrix4();
    const show = (frame = useMyriapod.getState().frame) => {
      const there = frame?.instances[set];
      if (!there) return;
      for (let k = 0; k < Math.min(count, there.count); k++) {
        const m = there.matrices.subarray(12 * k, 12 * k + 12);
        const at = (i: number) => m[i] ?? 0;
        matrix.set(at(0), at(3), at(6), at(9), at(1), at(4), at(7), at(10), at(2), at(5), at(8), at(11), 0, 0, 0, 1);
        mesh.setMatrixAt(k, mirrored ? matrix.premultiply(ACROSS) : matrix);
      }
      mesh.instanceMatrix.needsUpdate = true;
      invalidate();
    };
    show();
    const stop = useMyriapod.subscribe((s, before) => s.frame !== before.frame && show(s.frame));
    return () => {
      stop();
      (mesh.material as MeshLambertMaterial).dispose();
      mesh.dispose();
    };
  }, [mesh, set, count, mirrored, invalidate]);
  if (!mesh || sight === "hidden") return null;
  return <primitive object={mesh} />;
}
