import { expect, test } from "vitest";
import { broughtOf } from "./brought";

const file = (path: string) => ({ path, file: new File(["x"], path.split("/").at(-1) ?? "") });

test("a model goes with the files that are none", () => {
  const [one, ...none] = broughtOf([file("a/skin.png"), file("a/scene.gltf"), file("a/scene.bin")]);
  expect(none).toEqual([]);
  expect(one?.main.path).toBe("a/scene.gltf");
  expect(one?.beside.map((f) => f.path)).toEqual(["a/skin.png", "a/scene.bin"]);
});

test("several models go one by one, and what is no model goes to be told about", () => {
  expect(broughtOf([file("a.obj"), file("b.GLB")]).map((b) => b.main.path)).toEqual(["a.obj", "b.GLB"]);
  expect(broughtOf([file("notes.txt")]).map((b) => b.main.path)).toEqual(["notes.txt"]);
  expect(broughtOf([])).toEqual([]);
});
