import { type BufferAttribute, Matrix4, Vector3 } from "three";
import { api } from "../server/api";
import { attempt, pose } from "../server/session";
import { documentOf, type Picking, setState, state } from "../state/store";
import type { Act, Picked } from "../wire/pick.gen";
import { join } from "./elements";
import { project, rayAt, view } from "./view";

/** startPicking begins the picking of elements of a kind, of one part where it is given, or ends it. */
export function startPicking(kind?: Picking["kind"], of?: string) {
  setState((s) => ({
    picking: kind
      ? { kind, part: of ?? s.picking?.part, through: s.picking?.through ?? false, window: false }
      : undefined,
    chosen: [],
    laying: undefined,
  }));
  pose();
}

const change = (part: Partial<Picking>) => setState((s) => (s.picking ? { picking: { ...s.picking, ...part } } : {}));

/** under finds the element of the present kind under a place on the canvas. */
function under(x: number, y: number): Picking["under"] {
  const { scene, camera, canvas } = view;
  const { picking } = state();
  if (!scene || !camera || !canvas || !picking) return undefined;
  const d = documentOf();
  const hit = rayAt(x, y)
    .intersectObjects(scene.children, true)
    .find((h) => {
      const part = d.parts.find((p) => p.id === h.object.userData.part);
      return part && !part.locked && (!picking.part || part.id === picking.part);
    });
  const mesh = hit?.object as { geometry?: { getAttribute(name: string): unknown } } | undefined;
  if (!hit?.face || !mesh?.geometry) return undefined;
  const part = hit.object.userData.part as string;
  if (picking.kind === "faces") return { part, elements: [hit.faceIndex ?? 0] };
  const place = mesh.geometry.getAttribute("position") as BufferAttribute;
  const { width, height } = canvas.getBoundingClientRect();
  const corners = [hit.face.a, hit.face.b, hit.face.c].map((v) => {
    const at = project(new Vector3().fromBufferAttribute(place, v), camera, width, height);
    return { v, x: at.x, y: at.y };
  });
  if (picking.kind === "vertices") {
    const best = corners.reduce((a, b) => (Math.hypot(b.x - x, b.y - y) < Math.hypot(a.x - x, a.y - y) ? b : a));
    return { part, elements: [best.v] };
  }
  let best: { elements: number[]; distance: number } | undefined;
  corners.forEach((a, i) => {
    const b = corners[(i + 1) % 3];
    if (!b) return;
    const [dx, dy] = [b.x - a.x, b.y - a.y];
    const share = Math.min(1, Math.max(0, ((x - a.x) * dx + (y - a.y) * dy) / Math.max(dx * dx + dy * dy, 1e-9)));
    const distance = Math.hypot(x - a.x - share * dx, y - a.y - share * dy);
    if (!best || distance < best.distance) best = { elements: [a.v, b.v], distance };
  });
  return best && { part, elements: best.elements };
}

/** pickUnder shows what a click would pick; with add given it picks it, alone or with what is picked already. */
export function pickUnder(x: number, y: number, add?: boolean) {
  const found = under(x, y);
  if (add === undefined) return change({ under: found });
  if (!found) return add ? undefined : change({ picked: undefined });
  const before = add ? (state().picking?.picked?.elements.of ?? {}) : {};
  void act("", { ...before, [found.part]: join(before[found.part] ?? [], found.elements) });
}

/** act has the core do something with what is picked. */
export async function act(what: Act, of?: Record<string, number[]>) {
  const { picking, specimen } = state();
  if (!picking || !specimen) return;
  const elements = { kind: picking.picked?.elements.kind ?? picking.kind, of: of ?? picking.picked?.elements.of ?? {} };
  if (of) elements.kind = picking.kind;
  const picked = await attempt(() => api.elements(specimen.id, { act: what, elements }));
  if (picked) change({ picked, kind: picked.elements.kind as Picking["kind"] });
}

/** pickWindow picks what lies in a rectangle on the canvas. */
export async function pickWindow(from: { x: number; y: number }, to: { x: number; y: number }, add: boolean) {
  const { picking, specimen } = state();
  const { camera, canvas } = view;
  if (!picking || !specimen || !camera || !canvas) return;
  const { width, height } = canvas.getBoundingClientRect();
  const [x, y] = [[from.x, to.x].sort((a, b) => a - b), [from.y, to.y].sort((a, b) => a - b)];
  const across = (v = 0) => (2 * v) / width - 1;
  const up = (v = 0) => 1 - (2 * v) / height;
  const projection = new Matrix4().multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse);
  const picked = await attempt(() =>
    api.elements(specimen.id, {
      act: "window",
      elements: { kind: picking.kind, of: {} },
      view: projection.toArray(),
      window: [across(x[0]), up(y[1]), across(x[1]), up(y[0])],
      through: picking.through,
    }),
  );
  if (!picked) return;
  const found = Object.entries(picked.elements.of).filter(([part]) => !picking.part || part === picking.part);
  if (!add && !picking.part) return change({ window: false, picked });
  change({ window: false, picked: undefined });
  const of: Picked["elements"]["of"] = add ? { ...picking.picked?.elements.of } : {};
  for (const [part, list] of found) of[part] = [...(of[part] ?? []), ...list];
  await act("", of);
}

export const setPicking = change;
