// Reads a GLB as any web application would, with three.js, plays its clip to each time given, and prints the skinned vertices
// of every part. Usage: node skin-with-three.mjs FILE.glb TIME...
import { readFileSync } from "node:fs";
import { AnimationMixer, LoopOnce, Vector3 } from "three";
import { GLTFLoader } from "three/addons/loaders/GLTFLoader.js";

globalThis.self = globalThis;
const [file, ...times] = process.argv.slice(2);
const data = readFileSync(file);
const gltf = await new GLTFLoader().parseAsync(
  data.buffer.slice(data.byteOffset, data.byteOffset + data.byteLength),
  "",
);
const mixer = new AnimationMixer(gltf.scene);
for (const clip of gltf.animations) {
  const action = mixer.clipAction(clip).setLoop(LoopOnce);
  action.clampWhenFinished = true; // the last frame is asked for as well
  action.play();
}

const frames = times.map((time) => {
  mixer.setTime(Number(time));
  gltf.scene.updateMatrixWorld(true);
  const parts = [];
  gltf.scene.traverse((object) => {
    if (!object.isMesh) return;
    if (object.isSkinnedMesh) object.skeleton.update();
    const vertices = [];
    const v = new Vector3();
    for (let i = 0; i < object.geometry.getAttribute("position").count; i++) {
      object.getVertexPosition(i, v);
      v.applyMatrix4(object.matrixWorld);
      vertices.push([v.x, v.y, v.z]);
    }
    parts.push({ name: object.name, vertices });
  });
  return { time: Number(time), parts };
});
console.log(JSON.stringify({ frames }));
