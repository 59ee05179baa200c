import { describe, expect, it } from "vitest";
import type { Document, Joint } from "../wire/rig.gen";
import { layOut } from "./layout";

const joint = (id: string, parent: string, z: number, name = id): Joint => ({
  id,
  name,
  parent,
  position: [0, 0, z],
  rotation: [0, 0, 0, 1],
});

const document = (joints: Joint[], more: Partial<Document> = {}): Document => ({
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
  ...more,
});

describe("layOut", () => {
  it("lays the head to the right, whichever end the chain starts from", () => {
    const fromHead = layOut(document([joint("a", "", 1), joint("b", "a", 0), joint("c", "b", -1)]));
    expect(fromHead.stations[0]?.x).toBeGreaterThan(fromHead.stations[2]?.x ?? 0);
    const fromTail = layOut(document([joint("a", "", -1), joint("b", "a", 0), joint("c", "b", 1)]));
    expect(fromTail.stations[0]?.x).toBeLessThan(fromTail.stations[2]?.x ?? 0);
  });
  it("branches left limbs up and right limbs down", () => {
    const { stations } = layOut(
      document([
        joint("a", "", 1),
        joint("b", "a", 0),
        joint("c", "b", -1),
        joint("l", "a", 1, "leg_L"),
        joint("r", "a", 1, "leg_R"),
      ]),
    );
    expect(stations.find((s) => s.id === "l")?.y).toBeLessThan(0);
    expect(stations.find((s) => s.id === "r")?.y).toBeGreaterThan(0);
  });
  it("gives 400 joints room and every joint one station", () => {
    const joints = Array.from({ length: 400 }, (_, i) => joint(`j${i}`, i > 0 ? `j${i - 1}` : "", -i));
    const layout = layOut(document(joints));
    expect(layout.stations).toHaveLength(400);
    expect(layout.width).toBeGreaterThanOrEqual(14 * 400);
  });
  it("draws nothing of an empty rig", () => expect(layOut(document([])).stations).toEqual([]));
});
