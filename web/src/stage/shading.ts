import { type Material, ShaderChunk } from "three";

const LINEAR = "objectNormal = vec4( skinMatrix * vec4( objectNormal, 0.0 ) ).xyz;";
const COFACTOR = `
	mat3 blended = mat3( skinMatrix );
	objectNormal = mat3( cross( blended[ 1 ], blended[ 2 ] ), cross( blended[ 2 ], blended[ 0 ] ), cross( blended[ 0 ], blended[ 1 ] ) ) * objectNormal;`;

/** skinnedNormals is the piece of a shader that turns normals by the cofactor matrix of the blended one, as the core does. */
export const skinnedNormals = ShaderChunk.skinnormal_vertex.replace(LINEAR, COFACTOR);

/** shadeAsDeformed has a material shade a body that own scale has widened by how its surface stands. */
export function shadeAsDeformed(material: Material) {
  material.onBeforeCompile = (shader) => {
    shader.vertexShader = shader.vertexShader.replace("#include <skinnormal_vertex>", skinnedNormals);
  };
}
