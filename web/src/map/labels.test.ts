import { expect, test } from "vitest";
import { nextTo, spread } from "./labels";

test("no label is printed over another, whatever is asked for", () => {
  let seed = 7;
  const random = () => {
    seed = (seed * 16807) % 2147483647;
    return seed / 2147483647;
  };
  for (let round = 0; round < 200; round++) {
    const size = 11;
    const wanted = Array.from({ length: 12 }, (_, i) => ({
      id: `${i}`,
      text: "x".repeat(3 + Math.floor(random() * 14)),
      x: random() * 200,
      y: random() * 40,
    }));
    const placed = spread(wanted, size);
    expect(placed[0]).toEqual(wanted[0]);
    for (const a of placed)
      for (const b of placed) {
        if (a === b) continue;
        const beside = Math.abs(a.x - b.x) >= ((a.text.length + b.text.length) * 0.56 * size) / 2 - 1e-9;
        const apart = Math.abs(a.y - b.y) >= 1.3 * size - 1e-9;
        const overlaps = !beside && Math.abs(a.y - b.y) < 1.3 * size - 1e-9 && !apart;
        expect(overlaps, `${a.text} over ${b.text}`).toBe(false);
      }
  }
});

test("arrows go to what lies straight on, before what lies aside", () => {
  const spots = [
    { x: 10, y: 0, id: "next" },
    { x: 6, y: 9, id: "aside" },
    { x: -5, y: 0, id: "back" },
  ];
  expect(nextTo({ x: 0, y: 0 }, spots, 1, 0)?.id).toBe("next");
  expect(nextTo({ x: 0, y: 0 }, spots, 0, 1)?.id).toBe("aside");
  expect(nextTo({ x: 0, y: 0 }, spots, -1, 0)?.id).toBe("back");
  expect(nextTo({ x: 0, y: 0 }, spots, 0, -1)).toBeUndefined();
});
