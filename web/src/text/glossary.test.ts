import { expect, test } from "vitest";
import { glossary } from "./glossary";

test("the glossary is read from its table, each word once", () => {
  expect(glossary.length).toBeGreaterThan(30);
  expect(glossary.every((e) => e.here && e.trade && e.means)).toBe(true);
  expect(new Set(glossary.map((e) => e.here)).size).toBe(glossary.length);
  expect(glossary.find((e) => e.here === "dial")?.trade).toContain("extra channel");
});
