import type { Elements } from "../wire/pick.gen";

/** cornersOf lists the vertices to draw for elements: points, ends of edges, or corners of faces. */
export function cornersOf(kind: Elements["kind"], list: number[], index: ArrayLike<number>): number[] {
  if (kind !== "faces") return list;
  return list.flatMap((face) => [index[3 * face] ?? 0, index[3 * face + 1] ?? 0, index[3 * face + 2] ?? 0]);
}

/** join adds elements to those picked; single ones that are picked already are taken away. */
export function join(list: number[], more: number[]): number[] {
  if (more.length === 1 && list.includes(more[0] ?? -1)) return list.filter((e) => e !== more[0]);
  return [...list, ...more];
}
