import { ShaderLib } from "three";
import { expect, test } from "vitest";
import { shadeAsDeformed, skinnedNormals } from "./shading";

test("the body's shader turns normals by the cofactor matrix", () => {
  expect(skinnedNormals).toContain("cross( blended[ 1 ], blended[ 2 ] )");
  expect(skinnedNormals).not.toContain("skinMatrix * vec4( objectNormal, 0.0 )");
  const material = {} as { onBeforeCompile: (shader: { vertexShader: string }) => void };
  shadeAsDeformed(material as never);
  const shader = { vertexShader: ShaderLib.lambert.vertexShader };
  material.onBeforeCompile(shader);
  expect(shader.vertexShader).toContain("cross( blended[ 2 ], blended[ 0 ] )");
});
