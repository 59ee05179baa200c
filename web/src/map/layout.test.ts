import { describe, expect, it } from "vitest";
import { setState } from "../state/store";
import type { Declaration } from "../wire/mechanism.gen";
import type { Document, Joint, Repeat } from "../wire/rig.gen";
import type { Specimen } from "../wire/wire.gen";
import { layOut } from "./layout";

const joint = (id: string, parent: string, z: number, name = id): Joint => ({
  id,
  name,
  parent,
  position: [0, 0, z],
  rotation: [0, 0, 0, 1],
});

const document = (joints: Joint[], repeats: Repeat[] = []): Document => ({
  format: "",
  version: 1,
  name: "",
  fps: 24,
  nextId: 1,
  parts: [],
  joints,
  controls: [],
  mechanisms: [],
  bindings: [],
  clips: [],
  repeats,
  drivers: [],
  measures: [],
  groups: [],
});

const repeat = (rule: string, sources: string[]): Repeat => ({
  id: "r",
  name: "r",
  rule,
  sources,
  point: [0, 0, 0],
  direction: [0, 1, 0],
  count: 6,
  stations: [],
  replace: "",
  pattern: "",
  differences: [],
});

describe("layOut", () => {
  it("lays the head to the right, whichever end the chain starts from", () => {
    const fromHead = layOut(document([joint("a", "", 1), joint("b", "a", 0), joint("c", "b", -1)]));
    expect(fromHead.stations[0]?.x).toBeGreaterThan(fromHead.stations[2]?.x ?? 0);
    const fromTail = layOut(document([joint("a", "", -1), joint("b", "a", 0), joint("c", "b", 1)]));
    expect(fromTail.stations[0]?.x).toBeLessThan(fromTail.stations[2]?.x ?? 0);
  });
  it("keeps a limb without a side clear of the ones beside it, so that each can be pointed at", () => {
    const limb = (id: string, name: string) => [
      joint(`${id}1`, "b", 1, `${name}_1`),
      joint(`${id}2`, `${id}1`, 2, `${name}_2`),
      joint(`${id}3`, `${id}2`, 3, `${name}_3`),
    ];
    setState({
      specimen: { survey: { sides: { l1: "L", l2: "L", l3: "L", r1: "R", r2: "R", r3: "R" } } } as unknown as Specimen,
    });
    const { stations } = layOut(
      document([
        ...["a", "b", "c", "d", "e", "f", "g"].map((id, i) => joint(id, " abcdef"[i]?.trim() ?? "", 1 - i)),
        ...limb("l", "leg_L"),
        ...limb("r", "leg_R"),
        ...limb("h", "hook"),
      ]),
    );
    const of = (id: string) => stations.filter((s) => s.id.startsWith(id) && s.id !== id);
    for (const hook of of("h")) {
      for (const leg of [...of("l"), ...of("r")]) {
        expect(Math.hypot(hook.x - leg.x, hook.y - leg.y)).toBeGreaterThan(8);
      }
    }
  });
  it("branches left limbs up and right limbs down", () => {
    const { stations } = layOut(
      document([
        joint("a", "", 1),
        joint("b", "a", 0),
        joint("c", "b", -1),
        joint("l", "b", 1, "leg_L"),
        joint("r", "b", 1, "leg_R"),
      ]),
    );
    expect(stations.find((s) => s.id === "l")?.y).toBeLessThan(0);
    expect(stations.find((s) => s.id === "r")?.y).toBeGreaterThan(0);
  });
  it("keeps 1, 40 and 400 joints apart and inside its box", () => {
    for (const count of [1, 40, 400]) {
      const joints = Array.from({ length: count }, (_, i) => joint(`j${i}`, i > 0 ? `j${i - 1}` : "", -i));
      const { stations, box } = layOut(document(joints));
      expect(stations).toHaveLength(count);
      expect(new Set(stations.map((s) => s.x)).size).toBe(count);
      for (const s of stations) {
        expect(s.x).toBeGreaterThan(box.x);
        expect(s.x).toBeLessThan(box.x + box.w);
      }
      for (let i = 1; i < count; i++) {
        const [a, b] = [stations[i - 1], stations[i]];
        if (a && b) expect(a.radius + b.radius).toBeLessThan(Math.abs(a.x - b.x));
      }
    }
  });
  it("folds the copies of a series to one line each, and opens them", () => {
    const trunk = Array.from({ length: 8 }, (_, i) => joint(`t${i}`, i > 0 ? `t${i - 1}` : "", -i));
    const leg = ["a", "b", "c"].map((id, i, list) => joint(id, list[i - 1] ?? "t0", 0, `leg_L1_${i}`));
    const copy = ["a", "b", "c"].map((id, i, list) =>
      joint(`r.1/${id}`, i > 0 ? `r.1/${list[i - 1]}` : "t1", 0, `leg_L2_${i}`),
    );
    const origins = Object.fromEntries(
      copy.map((j) => [j.id, { repeat: "r", copy: 1, of: j.id.slice(4), differs: false }]),
    );
    const d = document([...trunk, ...leg, ...copy], [repeat("series", ["a"])]);
    const folded = layOut(d, origins);
    expect(folded.folds.map((f) => [f.id, f.joints.length])).toEqual([["r.1/a", 3]]);
    expect(folded.stations).toHaveLength(11);
    expect(layOut(d, origins, new Set(["r.1/a"])).stations).toHaveLength(14);
  });
  it("unrolls a ring around a short trunk to rows", () => {
    const tops = Array.from({ length: 6 }, (_, i) => [joint(`a${i}`, "bulb", 0), joint(`b${i}`, `a${i}`, 0)]).flat();
    const origins = Object.fromEntries(
      tops.slice(2).map((j) => [j.id, { repeat: "r", copy: Number(j.id.slice(1)), of: `${j.id[0]}0`, differs: false }]),
    );
    const { stations } = layOut(document([joint("bulb", "", 0), ...tops], [repeat("ring", ["a0"])]), origins);
    const rows = new Set(stations.filter((s) => !s.trunk).map((s) => s.y));
    expect(rows.size).toBe(6);
  });
  it("draws nothing of an empty rig", () => expect(layOut(document([])).stations).toEqual([]));
});

describe("marks of controls", () => {
  const spine = Array.from({ length: 9 }, (_, i) => joint(`j${i}`, i > 0 ? `j${i - 1}` : "", -i));
  const control = (id: string, z: number) => ({
    id,
    name: id,
    position: [0, 0, z] as [number, number, number],
    rotation: [0, 0, 0, 1] as [number, number, number, number],
    order: "YXZ",
    shape: "hoop",
    outline: [],
  });
  const mechanism = (id: string, controls: string[], host = "") => ({
    id,
    name: id,
    kind: "k",
    on: true,
    host,
    joints: host ? [] : spine.map((j) => j.id),
    controls,
    parameters: {},
  });
  const rigged = {
    ...document(spine),
    controls: [control("first", 0), control("middle", -4.1), control("over", -4), control("free", 5)],
    mechanisms: [
      mechanism("chain", ["first", "middle"]),
      mechanism("guest", ["over"], "chain"),
      { ...mechanism("wave", [], "chain"), kind: "ripple" },
    ],
  };

  it("stand beside the joint that is nearest at rest, layer over layer", () => {
    const layout = layOut(rigged, {});
    const mark = (id: string) => layout.marks.find((m) => m.id === id);
    const station = (id: string) => layout.stations.find((s) => s.id === id);
    expect(mark("first")?.x).toBeCloseTo(station("j0")?.x ?? 0);
    expect(mark("middle")?.x).toBeCloseTo(station("j4")?.x ?? 0);
    expect(mark("over")?.x).toBeCloseTo(station("j4")?.x ?? 0);
    expect(mark("over")?.y).toBeLessThan((mark("middle")?.y ?? 0) - 6);
    expect(mark("free")?.x).toBeGreaterThan(Math.max(...layout.stations.map((s) => s.x)));
    expect(layout.marks.map((m) => m.index).sort()).toEqual([0, 1, 2, 3]);
  });

  it("and braces of guests lie below that of their host", () => {
    setState({ kinds: [{ kind: "ripple", waves: true } as Declaration] });
    const braces = Object.fromEntries(layOut(rigged, {}).braces.map((b) => [b.id, b]));
    const depth = (id: string) => braces[id]?.points[0]?.y ?? 0;
    expect(depth("guest")).toBeGreaterThan(depth("chain"));
    expect(depth("wave")).toBeGreaterThan(depth("guest"));
    expect(braces.wave?.wave).toBe(true);
    expect(braces.guest?.wave).toBe(false);
  });
});
