import { Bone, Matrix4, Quaternion, Skeleton, Vector3 } from "three";
import { type Frame, JOINT_STRIDE } from "../server/live";
import type { Document } from "../wire/rig.gen";

/** LiveSkeleton takes its matrices from the core's frames and never from a hierarchy of its own. */
export class LiveSkeleton extends Skeleton {
  private readonly inverses: Matrix4[];
  private readonly indices: number[];

  constructor(document: Document, joints: string[]) {
    super(joints.map(() => new Bone()));
    this.indices = joints.map((id) => document.joints.findIndex((j) => j.id === id));
    this.inverses = this.indices.map((i) => {
      const joint = document.joints[i];
      const rest = new Matrix4();
      if (joint) {
        const [x = 0, y = 0, z = 0, w = 1] = joint.rotation;
        rest.compose(new Vector3(...joint.position), new Quaternion(x, y, z, w), new Vector3(1, 1, 1));
      }
      return rest.invert();
    });
  }

  override update() {}

  show(frame: Frame) {
    if (!this.boneTexture) this.computeBoneTexture();
    const m = new Matrix4();
    this.indices.forEach((joint, i) => {
      const [ax = 1, ay = 0, az = 0, bx = 0, by = 1, bz = 0, cx = 0, cy = 0, cz = 1, px = 0, py = 0, pz = 0] =
        frame.joints.subarray(joint * JOINT_STRIDE, (joint + 1) * JOINT_STRIDE);
      m.set(ax, bx, cx, px, ay, by, cy, py, az, bz, cz, pz, 0, 0, 0, 1);
      m.multiply(this.inverses[i] as Matrix4).toArray(this.boneMatrices as Float32Array, 16 * i);
    });
    if (this.boneTexture) this.boneTexture.needsUpdate = true;
  }
}
