import type { BufferAttribute, BufferGeometry } from "three";
import { edit, hearPainted, paintDab, weighUnder } from "../server/session";
import { handOf, state } from "../state/store";
import type { Brushed, BrushedDual, Spot, Tell } from "../wire/wire.gen";
import { rayAt } from "./view";

/** Canvas is what strokes change of a part on the stage while they are painted. */
interface Canvas {
  geometry: BufferGeometry;
  joints: string[];
  changed(vertices: number[]): void;
  shares(vertices: number[], shares: number[]): void; // of dual quaternions
}

const canvases = new Map<string, Canvas>();

/** paintsOn has strokes on a part change what is drawn of it; it returns what ends that. */
export function paintsOn(part: string, canvas: Canvas): () => void {
  canvases.set(part, canvas);
  return () => {
    if (canvases.get(part) === canvas) canvases.delete(part);
  };
}

interface Stroke {
  base?: Omit<Brushed, "dabs">;
  dual?: Omit<BrushedDual, "dabs">; // where the share of dual quaternions is painted
  spots: Spot[];
  presses: number[]; // how hard each pressed; 0 where the device does not say
  press: number;
  sent?: number;
  asked: number; // when the pointer came to the place that is worked on, on the clock of performance.now
  begin: boolean;
  busy: boolean;
  next?: { x: number; y: number };
  ended: boolean;
}

let stroke: Stroke | undefined;

/** startStroke puts the brush on the chosen part at a place of the canvas. It tells whether there is anything to paint. */
export function startStroke(x: number, y: number, press = 0): boolean {
  const s = state();
  const part = s.specimen?.document.parts.find((p) => s.chosen.includes(p.id));
  if (handOf(s) || !s.brush || s.step !== "skin" || !part || (!s.weighedJoint && !s.brush.dual)) return false;
  const { stroke: kind, reach, strength, value, mirrored, through, locked } = s.brush;
  const brush = { stroke: kind, reach, strength, value, through };
  const what = s.brush.dual
    ? { dual: { part: part.id, brush } }
    : { base: { part: part.id, joint: s.weighedJoint ?? "", brush, mirrored, locked } };
  stroke = { ...what, spots: [], presses: [], press, asked: 0, begin: true, busy: false, ended: false };
  strokeTo(x, y, press);
  return true;
}

/** weighAt asks for the weights under the pointer while they are shown. */
export function weighAt(x: number, y: number) {
  const s = state();
  const part = s.specimen?.document.parts.find((p) => s.chosen.includes(p.id));
  if (s.step !== "skin" || s.weighing === "plain" || !part) return;
  const { origin, direction } = rayAt(x, y).ray;
  weighUnder(part.id, [origin.x, origin.y, origin.z], [direction.x, direction.y, direction.z]);
}

/** strokeTo goes on with the stroke. While the core works on a dab only the newest place is kept. */
export function strokeTo(x: number, y: number, press = stroke?.press ?? 0) {
  if (!stroke || stroke.ended) return;
  stroke.press = press;
  if (stroke.busy) {
    stroke.next = { x, y };
    return;
  }
  const { origin, direction } = rayAt(x, y).ray;
  stroke.busy = true;
  stroke.asked = performance.now();
  paintDab(
    stroke.base && { ...stroke.base, dabs: [] },
    stroke.dual && { ...stroke.dual, dabs: [] },
    stroke.begin,
    [origin.x, origin.y, origin.z],
    [direction.x, direction.y, direction.z],
    press,
  );
  stroke.sent = press;
  stroke.begin = false;
}

/** endStroke lifts the brush: the stroke is kept as one edit when its last dab is answered. */
export function endStroke() {
  if (!stroke) return;
  stroke.ended = true;
  if (!stroke.busy) keep();
}

/** painting tells whether a brush is down. */
export const painting = (): boolean => !!stroke && !stroke.ended;

/** takePainted shows what a dab changed, and goes on with the stroke. Nothing was painted where the core refused. */
function takePainted(painted?: Tell["painted"]) {
  if (!stroke) return;
  stroke.busy = false;
  if (!painted) {
    stroke = undefined;
    return;
  }
  if (painted.spot) {
    stroke.spots.push(painted.spot);
    stroke.presses.push(stroke.sent || 1);
  }
  const canvas = canvases.get(painted.part);
  if (canvas && painted.vertices.length > 0) show(canvas, painted);
  const { asked } = stroke;
  performance.measure("dab answered", { start: asked });
  requestAnimationFrame(() => requestAnimationFrame(() => performance.measure("dab drawn", { start: asked })));
  const { next } = stroke;
  stroke.next = undefined;
  if (next && !stroke.ended) strokeTo(next.x, next.y);
  else if (stroke.ended) keep();
}

hearPainted(takePainted);

function show(canvas: Canvas, painted: NonNullable<Tell["painted"]>) {
  if (painted.shares) return canvas.shares(painted.vertices, painted.shares);
  const table = canvas.geometry.getAttribute("skinIndex") as BufferAttribute;
  const values = canvas.geometry.getAttribute("skinWeight") as BufferAttribute;
  painted.vertices.forEach((v, i) => {
    for (let k = 0; k < 4; k++) {
      const at = canvas.joints.indexOf(painted.joints[painted.places[4 * i + k] ?? 0] ?? "");
      table.setComponent(v, k, Math.max(0, at));
      values.setComponent(v, k, at < 0 ? 0 : (painted.values[4 * i + k] ?? 0));
    }
  });
  table.needsUpdate = true;
  values.needsUpdate = true;
  canvas.changed(painted.vertices);
}

function keep() {
  const done = stroke;
  stroke = undefined;
  if (!done || done.spots.length === 0) return;
  const presses = done.presses.some((p) => p !== 1) ? done.presses : undefined;
  if (done.dual) void edit({ kind: "paint-dual", ...done.dual, dabs: done.spots, presses });
  if (done.base) void edit({ kind: "paint-weights", ...done.base, dabs: done.spots, presses });
}
