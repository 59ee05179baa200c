import type { Spot } from "./layout";

/** Label is a word at a place of the map: its middle, and the baseline. */
export interface Label extends Spot {
  id: string;
  text: string;
}

/** WIDE and TALL are how wide a letter and how tall a line is, as shares of the size of type. */
const WIDE = 0.56;
const TALL = 1.1;

interface Box {
  left: number;
  right: number;
  top: number;
  bottom: number;
}

const boxOf = (l: Label, size: number): Box => {
  const half = (l.text.length * WIDE * size) / 2;
  return { left: l.x - half, right: l.x + half, top: l.y - TALL * size, bottom: l.y + 0.2 * size };
};

const meet = (a: Box, b: Box) => a.left < b.right && b.left < a.right && a.top < b.bottom && b.top < a.bottom;

/**
 * spread places labels so that none is printed over another: where one would be, it goes below or above by a line or two, and is left out where that does
 * not help. Those that come first go first.
 */
export function spread(labels: Label[], size: number): Label[] {
  const placed: { label: Label; box: Box }[] = [];
  for (const wanted of labels) {
    for (const lines of [0, 1, -1, 2, -2]) {
      const label = { ...wanted, y: wanted.y + lines * TALL * 1.1 * size };
      const box = boxOf(label, size);
      if (placed.some((p) => meet(p.box, box))) continue;
      placed.push({ label, box });
      break;
    }
  }
  return placed.map((p) => p.label);
}

/** nextTo is what lies nearest in a direction from a place: straight on before aside. */
export function nextTo<T extends Spot>(from: Spot, all: T[], dx: number, dy: number): T | undefined {
  let best: T | undefined;
  let least = Number.POSITIVE_INFINITY;
  for (const one of all) {
    const along = (one.x - from.x) * dx + (one.y - from.y) * dy;
    const aside = Math.abs((one.x - from.x) * dy) + Math.abs((one.y - from.y) * dx);
    if (along < 0.5) continue;
    const cost = along + 2.5 * aside;
    if (cost < least) [best, least] = [one, cost];
  }
  return best;
}
