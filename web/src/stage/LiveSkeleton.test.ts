import { BufferAttribute, BufferGeometry, Matrix4, Quaternion, SkinnedMesh, Vector3 } from "three";
import { expect, it } from "vitest";
import type { Frame } from "../server/live";
import type { Document } from "../wire/rig.gen";
import { LiveSkeleton } from "./LiveSkeleton";

const turned = new Quaternion().setFromAxisAngle(new Vector3(0, 0, 1), 0.7);

const document: Document = {
  format: "",
  version: 1,
  name: "",
  fps: 24,
  nextId: 1,
  parts: [],
  joints: [
    { id: "a", name: "a", position: [1, 0, 0], rotation: [0, 0, 0, 1] },
    { id: "b", name: "b", parent: "a", position: [0, 2, 0], rotation: [turned.x, turned.y, turned.z, turned.w] },
  ],
  controls: [],
  mechanisms: [],
  bindings: [],
  clips: [],
  repeats: [],
  drivers: [],
  measures: [],
  groups: [],
};

/** worldOf is a joint's matrix in the world, as a frame carries it: three axes and the place. */
const worldOf = (m: Matrix4) => [0, 1, 2, 4, 5, 6, 8, 9, 10, 12, 13, 14].map((i) => m.elements[i] ?? 0);

it("skins with the core's matrices: weighted sums of world times inverse rest", () => {
  const now = [
    new Matrix4().makeRotationY(0.4).setPosition(3, 1, 2),
    new Matrix4()
      .makeRotationX(-0.9)
      .scale(new Vector3(1.3, 1, 1.3))
      .setPosition(-1, 0, 5),
  ];
  const frame: Frame = {
    seq: 1,
    sequence: 1,
    time: 0,
    joints: new Float32Array(now.flatMap(worldOf)),
    controls: new Float32Array(),
    curves: [],
    goesOn: false,
    driven: new Float32Array(),
    measures: new Float32Array(),
    instances: [],
    deformed: new Map(),
    morphs: new Float32Array(),
    dials: new Float32Array(),
    idle: new Float32Array(),
  };
  const vertices = [
    [0.5, 0.5, 0.5],
    [-1, 2, 0.25],
    [2, -1, 1],
  ];
  const shares = [
    [1, 0],
    [0.3, 0.7],
    [0, 1],
  ];
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(new Float32Array(vertices.flat()), 3));
  // The binding lists the joints the other way round: its places are its own.
  geometry.setAttribute("skinIndex", new BufferAttribute(new Uint16Array(vertices.flatMap(() => [1, 0, 0, 0])), 4));
  geometry.setAttribute(
    "skinWeight",
    new BufferAttribute(new Float32Array(shares.flatMap(([x = 0, y = 0]) => [x, y, 0, 0])), 4),
  );
  const skeleton = new LiveSkeleton(document, ["b", "a"]);
  const mesh = new SkinnedMesh(geometry);
  mesh.bind(skeleton, new Matrix4());
  skeleton.show(frame);

  const rests = document.joints.map(({ position, rotation: [x = 0, y = 0, z = 0, w = 1] }) =>
    new Matrix4().compose(new Vector3(...position), new Quaternion(x, y, z, w), new Vector3(1, 1, 1)).invert(),
  );
  vertices.forEach((place, i) => {
    const want = new Vector3();
    [0, 1].forEach((joint) => {
      const moved = new Vector3(...(place as [number, number, number]))
        .applyMatrix4(rests[joint] as Matrix4)
        .applyMatrix4(now[joint] as Matrix4);
      want.addScaledVector(moved, shares[i]?.[joint] ?? 0);
    });
    const matrices = skeleton.boneMatrices as Float32Array;
    const got = new Vector3();
    [1, 0].forEach((bone, k) => {
      const m = new Matrix4().fromArray(matrices, 16 * bone);
      got.addScaledVector(new Vector3(...(place as [number, number, number])).applyMatrix4(m), shares[i]?.[k] ?? 0);
    });
    expect(got.distanceTo(want)).toBeLessThan(1e-5);
  });
});
