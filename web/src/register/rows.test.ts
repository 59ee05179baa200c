import { describe, expect, it } from "vitest";
import type { Document, Joint } from "../wire/rig.gen";
import { groupsOf, treeOf } from "./rows";

const joint = (id: string, parent = "", label?: string): Joint => ({
  id,
  name: id,
  label,
  parent,
  position: [0, 0, 0],
  rotation: [0, 0, 0, 1],
});

const document = (joints: Joint[]): Document => ({
  format: "",
  version: 1,
  name: "",
  fps: 24,
  nextId: 1,
  parts: [{ id: "p", name: "body", mesh: "", vertices: 3, colour: "#808080", sight: "shown", locked: false }],
  joints,
  controls: [],
  mechanisms: [],
  bindings: [],
  clips: [],
  repeats: [],
  drivers: [],
  measures: [],
  groups: [],
});

describe("treeOf", () => {
  it("lists each joint below its parent and steps in where a chain branches", () => {
    const tree = treeOf([joint("a"), joint("b", "a"), joint("c", "b"), joint("d", "b"), joint("e", "c"), joint("f")]);
    expect(tree.map((t) => [t.joint.id, t.depth])).toEqual([
      ["a", 0],
      ["b", 0],
      ["c", 1],
      ["e", 1],
      ["d", 1],
      ["f", 0],
    ]);
  });
});

describe("groupsOf", () => {
  const d = document([joint("spine_1"), joint("spine_2", "spine_1", "Back"), joint("fin", "spine_2")]);
  it("leaves groups without rows out", () =>
    expect(groupsOf(d, {}, "").map((g) => [g.title, g.rows.length])).toEqual([
      ["Joints", 3],
      ["Parts", 1],
    ]));
  it("filters by wildcards, and by labels", () => {
    expect(groupsOf(d, {}, "spine_?")[0]?.rows.map((r) => r.name)).toEqual(["spine_1", "spine_2"]);
    expect(groupsOf(d, {}, "back")[0]?.rows.map((r) => r.name)).toEqual(["spine_2"]);
    expect(groupsOf(d, {}, "nothing")).toEqual([]);
  });
  it("marks copies, and those that keep something of their own", () => {
    const rows = groupsOf(d, { fin: { repeat: "r", copy: 1, of: "x", differs: true } }, "fin")[0]?.rows;
    expect(rows?.[0]).toMatchObject({ copy: true, differs: true, joint: true });
  });
});
