import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import {
  Box3,
  Color,
  ConeGeometry,
  CylinderGeometry,
  InstancedMesh,
  Matrix4,
  MeshBasicMaterial,
  Quaternion,
  TorusGeometry,
  Vector3,
} from "three";
import { type Frame, JOINT_STRIDE } from "../server/live";
import { seenState } from "../state/groups";
import { useMyriapod } from "../state/store";
import type { Document } from "../wire/rig.gen";
import { sideOf } from "./side";

export const INKS = {
  L: "#0c7a75",
  R: "#8a3a6d",
  C: "#23292c",
  control: "#b1741a",
  violet: "#5b4bb0",
  finding: "#c8432b",
};

interface Bone {
  from: number;
  to: number;
}

const UP = new Vector3(0, 1, 0);

/** PALE is what ghosts fade towards, and NOTHING the scale of what is hidden. */
const PALE = new Color("#f8f4ea");
const NOTHING = new Vector3(0, 0, 0);

/** Skeleton draws each bone as a slim quill with a collar at the joint and a short barb along its second axis. */
export function Skeleton({ document }: { document: Document }) {
  const invalidate = useThree((three) => three.invalidate);
  const sight = useMyriapod((s) => s.sights.skeleton);
  const chosen = useMyriapod((s) => s.chosen);
  const hovered = useMyriapod((s) => s.hovered);
  const raised = useMyriapod((s) => s.raised);
  const asked = useMyriapod((s) => s.asking?.ids);
  const size = useMyriapod((s) => s.size);
  const states = useMyriapod((s) => s.specimen?.survey.states);
  const step = useMyriapod((s) => s.step);
  const count = document.joints.length;

  const bones = useMemo(() => {
    const index = new Map(document.joints.map((j, i) => [j.id, i]));
    const list: Bone[] = [];
    document.joints.forEach((j, i) => {
      const parent = index.get(j.parent ?? "");
      if (parent !== undefined) list.push({ from: parent, to: i });
    });
    return list;
  }, [document.joints]);

  // A bone that only bridges a gap is no stouter than the others, nor for what stands beside the specimen.
  const stoutest = useMemo(() => {
    const reach = new Box3().setFromPoints(document.joints.map((j) => new Vector3(...j.position)));
    return Math.min(0.009 * size, 0.012 * reach.getSize(new Vector3()).length() || Infinity);
  }, [document.joints, size]);

  const meshes = useMemo(() => {
    const material = () => new MeshBasicMaterial({ depthTest: false, transparent: true, opacity: 0.92 });
    const make = (geometry: ConstructorParameters<typeof InstancedMesh>[0], n: number, order: number) => {
      const mesh = new InstancedMesh(geometry, material(), Math.max(1, n));
      mesh.count = n;
      mesh.frustumCulled = false;
      mesh.renderOrder = order;
      mesh.raycast = () => {};
      return mesh;
    };
    const quill = new CylinderGeometry(0.16, 1, 1, 8).translate(0, 0.5, 0);
    const barb = new ConeGeometry(0.25, 1, 4).rotateX(Math.PI / 2).translate(0, 0, 0.5);
    return {
      quills: make(quill, bones.length, 20),
      collars: make(new TorusGeometry(1, 0.34, 6, 14).rotateX(Math.PI / 2), count, 21),
      barbs: make(barb, count, 20),
    };
  }, [bones, count]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: states are read by what tells how each is seen
  useEffect(() => {
    const colour = new Color();
    const picked = new Set(chosen);
    const troubled = new Set(raised.map((f) => f.subject));
    const flagged = new Set(document.mechanisms.filter((m) => troubled.has(m.id)).flatMap((m) => m.joints));
    const own = (id: string) => (flagged.has(id) ? INKS.finding : INKS[sideOf(id)]);
    const lit = new Set(asked);
    const paint = (id: string) => {
      const seen = seenState(id);
      const plain = flagged.has(id) ? INKS.finding : (seen.colour ?? own(id));
      colour.set(hovered === id ? INKS.control : lit.has(id) || picked.has(id) ? INKS.violet : plain);
      return seen.sight === "ghost" && !picked.has(id) ? colour.lerp(PALE, 0.7) : colour;
    };
    document.joints.forEach((j, i) => {
      meshes.collars.setColorAt(i, paint(j.id));
      meshes.barbs.setColorAt(i, paint(j.id));
    });
    bones.forEach((b, i) => {
      const joint = document.joints[b.from];
      if (joint) meshes.quills.setColorAt(i, paint(joint.id));
    });
    for (const mesh of Object.values(meshes)) {
      if (mesh.instanceColor) mesh.instanceColor.needsUpdate = true;
      (mesh.material as MeshBasicMaterial).opacity = sight === "ghost" ? 0.3 : 0.92;
    }
    invalidate();
  }, [meshes, bones, document.joints, document.mechanisms, raised, chosen, hovered, asked, sight, states, invalidate]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: states and the step are read by what tells how each is seen
  useEffect(() => {
    const show = (frame?: Frame) => {
      if (!frame || frame.joints.length !== count * JOINT_STRIDE) return;
      lay(frame, bones, meshes, stoutest, (i) => {
        const id = document.joints[i]?.id ?? "";
        return seenState(id).sight === "hidden" && !chosen.includes(id);
      });
      invalidate();
    };
    show(useMyriapod.getState().frame);
    return useMyriapod.subscribe((s, before) => s.frame !== before.frame && show(s.frame));
  }, [meshes, bones, count, stoutest, states, step, chosen, document.joints, invalidate]);

  useEffect(
    () => () => {
      for (const mesh of Object.values(meshes)) mesh.dispose();
    },
    [meshes],
  );

  if (sight === "hidden" || count === 0) return null;
  return Object.entries(meshes).map(([name, mesh]) => <primitive key={name} object={mesh} />);
}

function lay(
  frame: Frame,
  bones: Bone[],
  meshes: Record<"quills" | "collars" | "barbs", InstancedMesh>,
  stoutest: number,
  hidden: (joint: number) => boolean,
) {
  const at = (i: number, v: Vector3) => v.fromArray(frame.joints, i * JOINT_STRIDE + 9);
  const [a, b, along, scale] = [new Vector3(), new Vector3(), new Vector3(), new Vector3()];
  const turn = new Quaternion();
  const m = new Matrix4();
  const count = frame.joints.length / JOINT_STRIDE;
  const girths = new Float32Array(count);
  bones.forEach((bone, i) => {
    along.subVectors(at(bone.to, b), at(bone.from, a));
    const length = along.length();
    const girth = Math.min(0.085 * length, stoutest);
    girths[bone.from] = Math.max(girths[bone.from] ?? 0, girth);
    girths[bone.to] = Math.max(girths[bone.to] ?? 0, girth * 0.8);
    turn.setFromUnitVectors(UP, along.normalize());
    meshes.quills.setMatrixAt(i, m.compose(a, turn, hidden(bone.from) ? NOTHING : scale.set(girth, length, girth)));
  });
  for (let i = 0; i < count; i++) {
    const f = frame.joints.subarray(i * JOINT_STRIDE, (i + 1) * JOINT_STRIDE);
    m.set(
      f[0] ?? 1,
      f[3] ?? 0,
      f[6] ?? 0,
      0,
      f[1] ?? 0,
      f[4] ?? 1,
      f[7] ?? 0,
      0,
      f[2] ?? 0,
      f[5] ?? 0,
      f[8] ?? 1,
      0,
      0,
      0,
      0,
      1,
    );
    turn.setFromRotationMatrix(m);
    const girth = girths[i] || 0.006;
    const gone = hidden(i);
    meshes.collars.setMatrixAt(i, m.compose(at(i, a), turn, gone ? NOTHING : scale.setScalar(1.25 * girth)));
    meshes.barbs.setMatrixAt(i, m.compose(a, turn, gone ? NOTHING : scale.set(0.9 * girth, 0.9 * girth, 4 * girth)));
  }
  for (const mesh of Object.values(meshes)) mesh.instanceMatrix.needsUpdate = true;
}
