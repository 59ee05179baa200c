import * as THREE from "three";
import { BufferAttribute, BufferGeometry } from "three";
import { acceleratedRaycast, computeBoundsTree, disposeBoundsTree } from "three-mesh-bvh";
import { api } from "../server/api";

THREE.BufferGeometry.prototype.computeBoundsTree = computeBoundsTree;
THREE.BufferGeometry.prototype.disposeBoundsTree = disposeBoundsTree;
THREE.Mesh.prototype.raycast = acceleratedRaycast;

const meshes = new Map<string, Promise<BufferGeometry>>();
const deltas = new Map<string, Promise<Float32Array>>();
const shares = new Map<string, Promise<Float32Array>>();
const weights = new Map<string, Promise<{ joints: Uint16Array; values: Float32Array }>>();

function once<T>(cache: Map<string, Promise<T>>, key: string, make: () => Promise<T>): Promise<T> {
  let made = cache.get(key);
  if (!made) {
    made = make();
    made.catch(() => cache.delete(key));
    cache.set(key, made);
  }
  return made;
}

/** loadMesh reads a stored surface ("MYM1", four counts, then the arrays; "MYM2" has a fifth, of colours) as a geometry for picking and drawing. */
export function loadMesh(specimen: string, hash: string): Promise<BufferGeometry> {
  return once(meshes, hash, async () => {
    const data = await api.blob(specimen, hash);
    const head = new DataView(data);
    const counts = [0, 1, 2, 3].map((i) => head.getUint32(4 + 4 * i, true));
    let at = head.getUint8(3) === "2".charCodeAt(0) ? 24 : 20;
    const floats = (n: number) => {
      const list = new Float32Array(data, at, n);
      at += 4 * n;
      return list;
    };
    const geometry = new BufferGeometry();
    geometry.setAttribute("position", new BufferAttribute(floats(counts[0] ?? 0), 3));
    geometry.setAttribute("normal", new BufferAttribute(floats(counts[1] ?? 0), 3));
    if (counts[2]) geometry.setAttribute("uv", new BufferAttribute(floats(counts[2]), 2));
    geometry.setIndex(new BufferAttribute(new Uint32Array(data, at, counts[3] ?? 0), 1));
    geometry.computeBoundingBox();
    geometry.computeBoundingSphere();
    geometry.computeBoundsTree({ indirect: true });
    return geometry;
  });
}

/** loadWeights reads a stored table of influences ("MYW1", a count, joints, values). */
export function loadWeights(specimen: string, hash: string) {
  return once(weights, hash, async () => {
    const data = await api.blob(specimen, hash);
    const count = 4 * new DataView(data).getUint32(4, true);
    return { joints: new Uint16Array(data, 8, count), values: new Float32Array(data.slice(8 + 2 * count)) };
  });
}

/** loadShares reads stored shares of vertices ("MYS1", a count, the shares). */
export function loadShares(specimen: string, hash: string) {
  return once(shares, hash, async () => new Float32Array(await api.blob(specimen, hash), 8));
}

/** loadDeltas reads how far a stored morph target moves each vertex: "MYD1", two counts, then the lists; or "MYD2", of the vertices that move, three counts, which those are, then the lists. */
export function loadDeltas(specimen: string, hash: string) {
  return once(deltas, hash, async () => {
    const data = await api.blob(specimen, hash);
    const head = new DataView(data);
    if (head.getUint8(3) === "1".charCodeAt(0)) return new Float32Array(data, 12, head.getUint32(4, true));
    const [vertices, moving] = [head.getUint32(4, true), head.getUint32(8, true)];
    const by = new Float32Array(3 * vertices);
    const which = new Uint32Array(data, 16, moving);
    const some = new Float32Array(data, 16 + 4 * moving, 3 * moving);
    which.forEach((v, i) => {
      by.set(some.subarray(3 * i, 3 * i + 3), 3 * v);
    });
    return by;
  });
}
