import { expect, test } from "vitest";

/** ROOMS are the folders of the page, each of which may import from those before it: what holds state, what talks to the server, what a person does, what draws. */
const ROOMS = [
  "wire",
  "text",
  "state",
  "server",
  "work",
  "stage",
  "card",
  "map",
  "timeline",
  "register",
  "shelf",
  "bench",
  ".",
];

const texts: Record<string, string> = import.meta.glob("./**/*.{ts,tsx}", {
  query: "?raw",
  import: "default",
  eager: true,
});

/** plain is a path without what leads back up, and without the ending. */
function plain(path: string): string {
  const way: string[] = [];
  for (const word of path.replace(/\.tsx?$/, "").split("/")) {
    if (word === "..") way.pop();
    else if (word !== ".") way.push(word);
  }
  return way.join("/");
}

const files = new Map(Object.entries(texts).map(([path, text]) => [plain(path), text]));

/** importsOf lists what a file imports at run time; types alone bring nothing with them. */
function importsOf(file: string): string[] {
  const found = (files.get(file) ?? "").matchAll(
    /(?:^|\n)(?:import|export) (?!type )[^;]*?"(\.[^"]+)"|import\("(\.[^"]+)"\)/g,
  );
  return [...found].map((m) => plain(`${file}/../${m[1] ?? m[2]}`));
}

const roomOf = (file: string) => (file.includes("/") ? (file.split("/")[0] ?? "") : ".");

test("rooms import one way", () => {
  expect(files.size).toBeGreaterThan(80);
  for (const file of files.keys())
    for (const other of importsOf(file)) {
      const [here, there] = [ROOMS.indexOf(roomOf(file)), ROOMS.indexOf(roomOf(other))];
      expect(here, `${file} stands in a room that is not listed`).toBeGreaterThanOrEqual(0);
      expect(there, `${file} imports ${other}`).toBeLessThanOrEqual(here);
    }
});

test("no file imports itself by way of others", () => {
  const done = new Set<string>();
  const walk = (at: string, way: string[]) => {
    expect(way, [...way, at].join(" → ")).not.toContain(at);
    if (done.has(at)) return;
    for (const next of importsOf(at)) walk(next, [...way, at]);
    done.add(at);
  };
  for (const file of files.keys()) walk(file, []);
});
