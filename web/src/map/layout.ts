import { sideOf } from "../stage/side";
import type { Document, Joint } from "../wire/rig.gen";

export interface Station {
  id: string;
  name: string;
  x: number;
  y: number;
  side: "L" | "R" | "C";
}
export interface Limb {
  from: { x: number; y: number };
  to: Station;
}
export interface Mark {
  id: string;
  name: string;
  x: number;
  y: number;
  root: boolean;
}
export interface Brace {
  id: string;
  name: string;
  on: boolean;
  x1: number;
  x2: number;
  y: number;
  wave: boolean;
}
export interface Layout {
  stations: Station[];
  limbs: Limb[];
  marks: Mark[];
  braces: Brace[];
  width: number;
  trunks: { y: number; x1: number; x2: number }[];
}

/** The map is laid out in its own units: joints of a trunk stand at least GAP apart, trunks lie ROW below each other. */
const GAP = 14;
const WIDTH = 860;
const ROW = 90;

/** layOut draws the creature from above, lying on its side of the page: trunks from tail (left) to head (right), limbs to both sides. */
export function layOut(d: Document): Layout {
  const children = new Map<string, Joint[]>();
  for (const j of d.joints) children.set(j.parent ?? "", [...(children.get(j.parent ?? "") ?? []), j]);
  const layout: Layout = { stations: [], limbs: [], marks: [], braces: [], width: WIDTH, trunks: [] };
  const below = (id: string) => children.get(id) ?? [];
  (children.get("") ?? []).forEach((root, row) => {
    const trunk = longest(root, below);
    const head = (trunk[0]?.position[2] ?? 0) >= (trunk.at(-1)?.position[2] ?? 0);
    const length = Math.max(WIDTH, GAP * trunk.length);
    layout.width = Math.max(layout.width, length);
    trunk.forEach((joint, i) => {
      const share = trunk.length > 1 ? i / (trunk.length - 1) : 0.5;
      const station = {
        id: joint.id,
        name: joint.name,
        x: (head ? 1 - share : share) * length,
        y: row * ROW,
        side: sideOf(joint.name),
      };
      layout.stations.push(station);
      below(joint.id)
        .filter((c) => !trunk.includes(c))
        .forEach((c, k) => {
          branch(layout, c, station, k % 2 === 0 ? -1 : 1, below);
        });
    });
    layout.trunks.push({ y: row * ROW, x1: 0, x2: length });
  });
  placeMechanisms(layout, d);
  return layout;
}

/** longest is the path from a joint down to the leaf furthest from it. */
function longest(root: Joint, below: (id: string) => Joint[]): Joint[] {
  const depth = new Map<string, number>();
  const order = [root];
  for (let i = 0; i < order.length; i++) order.push(...below(order[i]?.id ?? ""));
  for (const j of order.reverse()) depth.set(j.id, 1 + Math.max(0, ...below(j.id).map((c) => depth.get(c.id) ?? 0)));
  const path = [root];
  for (let next = below(root.id); next.length > 0; ) {
    const best = next.reduce((a, b) => ((depth.get(b.id) ?? 0) > (depth.get(a.id) ?? 0) ? b : a));
    path.push(best);
    next = below(best.id);
  }
  return path;
}

function branch(layout: Layout, joint: Joint, from: Station, lean: number, below: (id: string) => Joint[]) {
  const side = sideOf(joint.name);
  const way = side === "L" ? -1 : side === "R" ? 1 : lean;
  const station = { id: joint.id, name: joint.name, x: from.x + 5, y: from.y + way * 13, side };
  layout.stations.push(station);
  layout.limbs.push({ from, to: station });
  for (const c of below(joint.id)) branch(layout, c, station, way, below);
}

function placeMechanisms(layout: Layout, d: Document) {
  const at = new Map(layout.stations.map((s) => [s.id, s]));
  const hosts = new Map<string, Brace>();
  for (const m of d.mechanisms) {
    const host = hosts.get(m.host ?? "");
    const [first, last] = [at.get(m.joints[0] ?? ""), at.get(m.joints.at(-1) ?? "")];
    if (host) {
      layout.braces.push({ ...host, id: m.id, name: m.name, on: m.on, wave: true, y: host.y + 15 });
      continue;
    }
    if (!first || !last) continue;
    const brace = { id: m.id, name: m.name, on: m.on, x1: first.x, x2: last.x, y: first.y + 17, wave: false };
    hosts.set(m.id, brace);
    layout.braces.push(brace);
    m.controls.forEach((id, i) => {
      const share = m.controls.length > 1 ? i / (m.controls.length - 1) : 0;
      layout.marks.push({
        id,
        name: d.controls.find((c) => c.id === id)?.name ?? id,
        x: first.x + share * (last.x - first.x),
        y: first.y - 17,
        root: false,
      });
    });
  }
  const placed = new Set(layout.marks.map((m) => m.id));
  d.controls
    .filter((c) => !placed.has(c.id))
    .forEach((c, i) => {
      layout.marks.push({ id: c.id, name: c.name, x: layout.width + 62 + 22 * i, y: 0, root: c.shape === "pennant" });
    });
}
