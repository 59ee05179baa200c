import { type Side, sideOf } from "../stage/side";
import { state } from "../state/store";
import type { Document, Joint } from "../wire/rig.gen";
import type { Specimen } from "../wire/wire.gen";

export interface Spot {
  x: number;
  y: number;
}
export interface Station extends Spot {
  id: string;
  name: string;
  side: Side;
  radius: number;
  trunk: boolean;
}
export interface Line {
  key: string;
  points: Spot[];
  side: Side;
}
/** Fold is a repeated limb drawn as one line. It opens. */
export interface Fold extends Line {
  id: string; // its top joint
  name: string;
  joints: string[];
}
export interface Mark extends Spot {
  id: string;
  index: number; // its place among the controls
  colour?: string;
  name: string;
  root: boolean;
  size: number;
}
export interface Brace {
  id: string;
  name: string;
  on: boolean;
  host?: string; // the mechanism that it works on
  points: Spot[];
  wave: boolean;
  trunk: boolean;
}
export interface MapDrawing {
  stations: Station[];
  lines: Line[];
  folds: Fold[];
  marks: Mark[];
  braces: Brace[];
  trunks: { y: number; x1: number; x2: number; head: "left" | "right" | "none" }[];
  box: { x: number; y: number; w: number; h: number };
}

/** The map in its own units: a trunk takes WIDTH, limbs reach LIMB to each side, rows of a crown lie ROW apart. */
const WIDTH = 860;
const LIMB = 46;
const ROW = 17;
const GAP = 90; // between trees
/** How far limbs lean forward for each step outward. What has no side leans more, so that it clears the limbs beside it. */
const LEAN: Record<Side, number> = { L: 0.22, R: 0.22, C: 0.6 };
const LEAST = { w: 980, h: 126 };

type Origins = Specimen["origins"];

/**
 * layOut draws the creature from above, lying on its side of the page: trunks from tail (left) to head (right), left limbs up,
 * right limbs down. Copies of a series are folded to one line each unless they are open; rings are unrolled to rows.
 */
export function layOut(d: Document, origins: Origins = {}, open: ReadonlySet<string> = new Set()): MapDrawing {
  const plan = new Plan(d, origins, open);
  let x = 0;
  for (const root of plan.below("")) x = plan.tree(root, x) + GAP;
  placeMechanisms(plan.layout, d, x);
  plan.frame();
  return plan.layout;
}

class Plan {
  readonly layout: MapDrawing = {
    stations: [],
    lines: [],
    folds: [],
    marks: [],
    braces: [],
    trunks: [],
    box: { x: 0, y: 0, ...LEAST },
  };
  private readonly children = new Map<string, Joint[]>();
  private readonly depth = new Map<string, number>();
  private readonly repeated = new Set<string>(); // tops of what repeats make and of what they make it from
  private readonly chains = new Map<string, string[]>(); // by joint, of chains of two joints and more
  private readonly foldable = new Set<string>(); // tops of copies in series

  constructor(
    d: Document,
    origins: Origins,
    private readonly open: ReadonlySet<string>,
  ) {
    for (const j of d.joints) {
      const list = this.children.get(j.parent ?? "");
      if (list) list.push(j);
      else this.children.set(j.parent ?? "", [j]);
    }
    for (const chain of state().specimen?.survey.chains ?? [])
      if (chain.length > 1) for (const id of chain) this.chains.set(id, chain);
    const order = [...this.below("")];
    for (let i = 0; i < order.length; i++) order.push(...this.below(order[i]?.id ?? ""));
    for (const j of order.reverse())
      this.depth.set(j.id, 1 + Math.max(0, ...this.below(j.id).map((c) => this.depth.get(c.id) ?? 0)));
    const rules = new Map(d.repeats.map((r) => [r.id, r]));
    for (const r of d.repeats) for (const id of r.sources) this.repeated.add(id);
    for (const j of d.joints) {
      const origin = origins[j.id];
      const repeat = origin && rules.get(origin.repeat);
      if (!origin || !repeat?.sources.includes(origin.of)) continue;
      this.repeated.add(j.id);
      if (repeat.rule === "series") this.foldable.add(j.id);
    }
  }

  below(id: string): Joint[] {
    return this.children.get(id) ?? [];
  }

  /** path is the way down from a joint to the leaf furthest from it; it does not go on into what is repeated. */
  private path(from: Joint): Joint[] {
    const path = [from];
    for (let next = this.below(from.id); next.length > 0; ) {
      const free = next.filter((c) => !this.repeated.has(c.id));
      if (free.length === 0) break;
      // Numbered on as the chain is, or in the middle, before what goes to a side: a long leg is no trunk.
      const last = path.at(-1)?.id ?? "";
      const on = free.filter((c) => this.follows(last, c.id));
      const middle = free.filter((c) => sideOf(c.id) === "C");
      const ways = on.length > 0 ? on : middle.length > 0 ? middle : free;
      const best = ways.reduce((a, b) => ((this.depth.get(b.id) ?? 0) > (this.depth.get(a.id) ?? 0) ? b : a));
      path.push(best);
      next = this.below(best.id);
    }
    return path;
  }

  /** follows tells whether a joint is the next of the same chain, as the core cuts the skeleton into chains. */
  private follows(before: string, id: string): boolean {
    const chain = this.chains.get(before);
    return !!chain && chain === this.chains.get(id);
  }

  /** tree lays out one tree from x on and returns where it ends. */
  tree(root: Joint, x: number): number {
    const trunk = this.path(root);
    const crown = trunk.length <= 6 && Math.max(...trunk.map((j) => this.branches(j, trunk).length)) > 2;
    const length = crown ? 46 * (trunk.length - 1) : trunk.length > 1 ? WIDTH * Math.min(1, trunk.length / 12) : 0;
    const [[, y1 = 0, z1 = 0], [, y2 = 0, z2 = 0]] = [trunk[0]?.position ?? [], trunk.at(-1)?.position ?? []];
    const along = Math.abs(z1 - z2) > Math.abs(y1 - y2);
    const headFirst = along && z1 > z2 && !crown;
    const spacing = trunk.length > 1 ? length / (trunk.length - 1) : 40;
    const stations = trunk.map((joint, i) =>
      this.station(joint, x + (headFirst ? length - i * spacing : i * spacing), 0, spacing, true),
    );
    this.layout.trunks.push({
      y: 0,
      x1: x,
      x2: x + length,
      head: along && trunk.length > 1 ? (headFirst || !crown ? "right" : "none") : "none",
    });
    let end = x + length;
    trunk.forEach((joint, i) => {
      const at = stations[i];
      if (!at) return;
      const branches = this.branches(joint, trunk);
      if (crown) end = Math.max(end, this.rows(branches, at, x + length + 60));
      else {
        const outward = at.x <= x + 1 ? -1 : at.x >= x + length - 1 ? 1 : 0;
        branches.forEach((top, k) => {
          end = Math.max(end, this.limb(top, at, k, outward, true));
        });
      }
    });
    return end;
  }

  private branches(joint: Joint, trunk: Joint[]): Joint[] {
    return this.below(joint.id).filter((c) => !trunk.includes(c));
  }

  private station(joint: Joint, x: number, y: number, spacing: number, trunk = false): Station {
    const station = {
      id: joint.id,
      name: joint.name,
      x,
      y,
      side: sideOf(joint.id),
      radius: Math.min(trunk ? 4.6 : 3.4, Math.max(0.8, spacing * 0.4)),
      trunk,
    };
    this.layout.stations.push(station);
    return station;
  }

  /** limb lays a chain out from a station: left up, right down, others to one side and the other; at an end of the trunk outward. */
  private limb(top: Joint, from: Spot, index: number, outward: number, onTrunk = false): number {
    const path = this.path(top);
    const side = sideOf(top.id);
    const way = side === "L" ? -1 : side === "R" ? 1 : outward !== 0 && index === 0 ? 0 : index % 2 === 0 ? -1 : 1;
    const ahead = outward !== 0 && path.length > 1 && (side === "C" || !onTrunk);
    const reach = ahead ? Math.min(12, 130 / path.length) : Math.min(13, LIMB / path.length);
    const step = ahead
      ? { x: outward * reach * (way === 0 ? 1 : 0.88), y: way * Math.min(reach * 0.45, 40 / path.length) }
      : { x: reach * LEAN[side], y: (way || -1) * reach * (side === "C" ? 0.6 : 1) };
    const start = ahead ? from : { x: from.x + 6 * (index >> 1), y: from.y };
    const at = (i: number) => ({ x: start.x + step.x * (i + 1), y: start.y + step.y * (i + 1) });
    if (this.foldable.has(top.id) && !this.open.has(top.id)) {
      const joints = this.everyBelow(top);
      const points = [from, ...path.map((_, i) => at(i))];
      this.layout.folds.push({ id: top.id, name: top.name, key: top.id, points, side, joints });
      return at(path.length - 1).x;
    }
    const points: Spot[] = [from];
    let end = from.x;
    path.forEach((joint, i) => {
      const spot = at(i);
      points.push(this.station(joint, spot.x, spot.y, reach));
      end = Math.max(end, spot.x);
      this.branches(joint, path).forEach((branch, k) => {
        const last = i === path.length - 1;
        end = Math.max(end, this.limb(branch, spot, k, ahead ? outward : last && way === 0 ? 1 : 0));
      });
    });
    this.layout.lines.push({ key: top.id, points, side });
    return end;
  }

  private everyBelow(top: Joint): string[] {
    const list = [top];
    for (let i = 0; i < list.length; i++) list.push(...this.below(list[i]?.id ?? ""));
    return list.map((j) => j.id);
  }

  /** rows unrolls many branches of one station to rows, one below the other. */
  private rows(branches: Joint[], from: Spot, x: number): number {
    if (branches.length === 0) return from.x;
    const longest = Math.max(...branches.map((b) => this.depth.get(b.id) ?? 1));
    const reach = Math.min(34, 640 / longest);
    const rowGap = Math.max(8, Math.min(ROW, 120 / branches.length));
    branches.forEach((top, row) => {
      const y = (row - (branches.length - 1) / 2) * rowGap;
      const path = this.path(top);
      const points: Spot[] = [from, { x: x - 26, y }];
      path.forEach((joint, i) => {
        const spot = this.station(joint, x + i * reach, y, Math.min(reach, rowGap * 0.7));
        points.push(spot);
        this.branches(joint, path).forEach((branch, k) => {
          this.limb(branch, spot, k, 0);
        });
      });
      this.layout.lines.push({ key: top.id, points, side: sideOf(top.id) });
    });
    return x + (longest - 1) * reach;
  }

  /** frame fits the box around everything. */
  frame() {
    const { stations, folds, marks } = this.layout;
    const spots = [...stations, ...marks, ...folds.flatMap((f) => f.points)];
    const xs = spots.map((s) => s.x);
    const ys = spots.map((s) => s.y);
    const [left, right] = [Math.min(0, ...xs) - 62, Math.max(0, ...xs) + 62];
    const [top, bottom] = [Math.min(0, ...ys) - 26, Math.max(0, ...ys) + 30];
    const w = Math.max(LEAST.w, right - left);
    const h = Math.max(LEAST.h, bottom - top);
    this.layout.box = { x: (left + right - w) / 2, y: (top + bottom - h) / 2, w, h };
  }
}

function placeMechanisms(layout: MapDrawing, d: Document, end: number) {
  const at = new Map(layout.stations.map((s) => [s.id, s]));
  const braces = new Map<string, Brace>();
  const placed = new Set<string>();
  const hidden = new Set<string>(); // controls of what is folded away
  for (const m of d.mechanisms) {
    const host = braces.get(m.host ?? "");
    if (host) {
      const carried = d.mechanisms.find((h) => h.id === m.host);
      for (const id of m.controls) placeMark(layout, d, at, carried?.joints ?? [], id, host.trunk, 1, placed);
      const guests = layout.braces.filter((b) => b.host === m.host).length + 1;
      layout.braces.push({
        ...host,
        id: m.id,
        name: m.name,
        on: m.on,
        host: m.host,
        wave: state().kinds.find((k) => k.kind === m.kind)?.waves ?? false,
        points: shift(host.points, guests * (host.trunk ? 9 : 4)),
      });
      continue;
    }
    const stations = m.joints.map((j) => at.get(j)).filter((s) => s !== undefined);
    const trunk = stations.some((s) => s.trunk);
    if (m.joints.length === 0) continue; // its controls stand with the free ones
    if (stations.length === 0 || stations.length < m.joints.length) {
      for (const c of m.controls) hidden.add(c);
      continue;
    }
    const below = d.mechanisms.filter((o) => braces.has(o.id) && o.joints.some((j) => m.joints.includes(j))).length;
    const brace = {
      id: m.id,
      name: m.name,
      on: m.on,
      wave: false,
      trunk,
      points: shift(stations, (trunk ? 17 : 6) + 6 * below),
    };
    braces.set(m.id, brace);
    layout.braces.push(brace);
    for (const id of m.controls) placeMark(layout, d, at, m.joints, id, trunk, 0, placed);
  }
  const survey = state().specimen?.survey;
  d.controls
    .filter((c) => !placed.has(c.id) && !hidden.has(c.id))
    .forEach((c, i) => {
      layout.marks.push({
        ...markOf(d, c.id),
        x: end + 22 * i,
        y: 0,
        root: c.id === survey?.global || c.id === survey?.root,
        size: 7,
      });
    });
}

const markOf = (d: Document, id: string) => {
  const index = d.controls.findIndex((c) => c.id === id);
  return { id, index, name: d.controls[index]?.name ?? id, colour: d.controls[index]?.colour };
};

/** placeMark puts a control beside the joint that is nearest to it at rest; those of a further layer stand further off. */
function placeMark(
  layout: MapDrawing,
  d: Document,
  at: Map<string, Station>,
  joints: string[],
  id: string,
  trunk: boolean,
  layer: number,
  placed: Set<string>,
) {
  const mark = markOf(d, id);
  const home = d.controls[mark.index]?.position ?? [0, 0, 0];
  const apart = (joint: string) => {
    const [x, y, z] = d.joints.find((j) => j.id === joint)?.position ?? [0, 0, 0];
    return Math.hypot(x - home[0], y - home[1], z - home[2]);
  };
  const stations = joints.map((j) => at.get(j)).filter((s) => s !== undefined);
  const nearest = joints.reduce((best, j) => (apart(j) < apart(best) ? j : best), joints[0] ?? "");
  const station = at.get(nearest);
  if (!station) return;
  const aside = trunk ? { x: 0, y: -17 } : besideLimb(stations);
  const size = trunk ? 7 : 5;
  placed.add(id);
  let far = 1 + layer * 0.8;
  const taken = () =>
    layout.marks.some((m) => Math.hypot(m.x - station.x - far * aside.x, m.y - station.y - far * aside.y) < size);
  while (taken()) far += 0.8;
  layout.marks.push({ ...mark, x: station.x + far * aside.x, y: station.y + far * aside.y, root: false, size });
}

/** besideLimb is how far controls stand off a limb, at right angles and rather above it, so that its joints can be pointed at. */
function besideLimb(stations: Station[]): Spot {
  const [first, last] = [stations[0], stations.at(-1)];
  if (!first || !last) return { x: 0, y: 0 };
  const [x, y] = [last.x - first.x, last.y - first.y];
  const length = Math.hypot(x, y);
  if (length === 0) return { x: 0, y: -9 };
  const way = x > 0 ? -9 : 9;
  return { x: (-y / length) * way, y: (x / length) * way };
}

const shift = (points: Spot[], by: number): Spot[] => points.map((p) => ({ x: p.x, y: p.y + by }));
