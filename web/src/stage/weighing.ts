import { type BufferAttribute, type BufferGeometry, Color, Float32BufferAttribute, type Material } from "three";
import { INKS } from "./Skeleton";

/** How the weights of a skin are shown: not at all, those of one joint as shading with lines of equal weight, or all joints as tints. */
export type Weighing = "plain" | "one" | "all";

const MODES: Record<Weighing, number> = { plain: 0, one: 1, all: 2 };
const TINTS = [
  INKS.L,
  INKS.control,
  INKS.violet,
  INKS.R,
  INKS.finding,
  "#5f7f4a",
  "#3a6ea5",
  "#8a6d3b",
  "#6b4a8a",
  "#2c6e49",
];

const VERTEX = "attribute vec3 shown;\nvarying vec3 vShown;\n";
const FRAGMENT =
  "varying vec3 vShown;\nuniform float weighing;\nuniform vec3 none;\nuniform vec3 whole;\nuniform vec3 ink;\n";
const PAINT = `
	if (weighing > 1.5) diffuseColor.rgb = vShown;
	else if (weighing > 0.5) {
		float tenths = vShown.x * 10.0;
		float beside = min(fract(tenths), 1.0 - fract(tenths)) / max(fwidth(tenths), 1e-4);
		float line = vShown.x > 0.004 && vShown.x < 0.996 ? 1.0 - smoothstep(0.5, 1.3, beside) : 0.0;
		diffuseColor.rgb = mix(mix(none, whole, pow(vShown.x, 0.7)), ink, 0.6 * line);
	}`;

/** Shown is how a material shows weights. */
export interface Shown {
  weighing: { value: number };
}

/** showsWeights has a material show what the attribute "shown" of its geometry holds; before has it compile as it did. */
export function showsWeights(material: Material): Shown {
  const shown: Shown = { weighing: { value: 0 } };
  const before = material.onBeforeCompile;
  material.onBeforeCompile = (shader, renderer) => {
    before.call(material, shader, renderer);
    shader.uniforms.weighing = shown.weighing;
    shader.uniforms.none = { value: new Color("#e6dcc6") };
    shader.uniforms.whole = { value: new Color(INKS.violet) };
    shader.uniforms.ink = { value: new Color(INKS.C) };
    shader.vertexShader =
      VERTEX + shader.vertexShader.replace("#include <begin_vertex>", "#include <begin_vertex>\n\tvShown = shown;");
    shader.fragmentShader =
      FRAGMENT + shader.fragmentShader.replace("#include <color_fragment>", `#include <color_fragment>${PAINT}`);
  };
  return shown;
}

/** tintOf is the tint of a joint, by its place among all joints. */
export const tintOf = (place: number): string => TINTS[place % TINTS.length] ?? INKS.C;

/** layWeights writes what a vertex shows: how much of it goes with one joint, or the tints of all that it goes with. Without vertices it writes them all. */
export function layWeights(
  geometry: BufferGeometry,
  mode: Weighing,
  joints: string[],
  joint: string | undefined,
  placeOf: (joint: string) => number,
  vertices?: number[],
) {
  const table = geometry.getAttribute("skinIndex") as BufferAttribute | undefined;
  const values = geometry.getAttribute("skinWeight") as BufferAttribute | undefined;
  const count = geometry.getAttribute("position").count;
  let shown = geometry.getAttribute("shown") as Float32BufferAttribute | undefined;
  if (!shown) {
    shown = new Float32BufferAttribute(new Float32Array(3 * count), 3);
    geometry.setAttribute("shown", shown);
  }
  if (mode !== "plain" && table && values) {
    const one = joints.indexOf(joint ?? "");
    const tints = joints.map((id) => new Color(tintOf(placeOf(id))));
    const write = (v: number) => {
      const mixed = [0, 0, 0];
      for (let k = 0; k < 4; k++) {
        const [at, weight] = [table.getComponent(v, k), values.getComponent(v, k)];
        const tint = tints[at];
        if (mode === "one") mixed[0] = (mixed[0] ?? 0) + (at === one ? weight : 0);
        else if (tint)
          [tint.r, tint.g, tint.b].forEach((c, i) => {
            mixed[i] = (mixed[i] ?? 0) + weight * c;
          });
      }
      shown?.setXYZ(v, mixed[0] ?? 0, mixed[1] ?? 0, mixed[2] ?? 0);
    };
    if (vertices) vertices.forEach(write);
    else for (let v = 0; v < count; v++) write(v);
  }
  shown.needsUpdate = true;
}

/** layShares writes shares of vertices, of a whole, to be shown as the weights of one joint are; those of the others are none. Without vertices shares are of all; without shares they are whole. */
export function layShares(geometry: BufferGeometry, vertices?: number[], shares?: ArrayLike<number>, whole = 1) {
  const count = geometry.getAttribute("position").count;
  const shown = new Float32Array(3 * count);
  const last = vertices?.length ?? count;
  for (let i = 0; i < last; i++)
    shown[3 * (vertices?.[i] ?? i)] = Math.min(1, (shares?.[i] ?? 1) / Math.max(whole, 1e-30));
  geometry.setAttribute("shown", new Float32BufferAttribute(shown, 3));
}

/** mixShares writes shares of some vertices in among those that are shown. */
export function mixShares(geometry: BufferGeometry, vertices: number[], shares: number[]) {
  const shown = geometry.getAttribute("shown") as Float32BufferAttribute | undefined;
  if (!shown) return;
  vertices.forEach((v, i) => {
    shown.setX(v, shares[i] ?? 0);
  });
  shown.needsUpdate = true;
}

/** modeOf is how the shader knows a way of showing weights. */
export const modeOf = (mode: Weighing, bound: boolean): number => (bound ? MODES[mode] : 0);
