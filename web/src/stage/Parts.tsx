import { useThree } from "@react-three/fiber";
import { useEffect, useMemo, useState } from "react";
import {
  BackSide,
  BufferAttribute,
  type BufferGeometry,
  Color,
  DoubleSide,
  type Material,
  Matrix4,
  Mesh,
  MeshBasicMaterial,
  MeshLambertMaterial,
  SkinnedMesh,
} from "three";
import { type Frame, JOINT_STRIDE } from "../live";
import { attempt } from "../session";
import { useMyriapod } from "../store";
import type { Binding, Document, Part } from "../wire/rig.gen";
import { LiveSkeleton } from "./LiveSkeleton";
import { shadeAsDeformed } from "./shading";
import { loadDeltas, loadMesh, loadWeights } from "./surfaces";

const INK = new Color("#23292c");

/** inkMaterial draws the line around a body: its back faces, moved outward by a width that stays the same on screen. */
function inkMaterial() {
  const material = new MeshBasicMaterial({ color: INK, side: BackSide });
  const width = { value: 0.002 };
  material.onBeforeCompile = (shader) => {
    shader.uniforms.inkWidth = width;
    shader.vertexShader = shader.vertexShader
      .replace("#include <common>", "#include <common>\nuniform float inkWidth;")
      .replace("#include <begin_vertex>", "vec3 transformed = position + normal * inkWidth;");
  };
  return { material, width };
}

/** allOf waits until all surfaces of a document are read; what fails is told by the part it belongs to. */
const allOf = (document: Document, specimen: string) =>
  Promise.allSettled([
    ...document.parts.map((p) => loadMesh(specimen, p.mesh)),
    ...document.bindings.map((b) => loadWeights(specimen, b.weights)),
  ]);

function PartBody({
  part,
  binding,
  document,
  specimen,
}: {
  part: Part;
  binding?: Binding;
  document: Document;
  specimen: string;
}) {
  const [geometry, setGeometry] = useState<BufferGeometry>();
  const invalidate = useThree((three) => three.invalidate);
  const place = document.parts.findIndex((p) => p.id === part.id);
  const deformed = useMyriapod((s) => s.frame?.deformed.has(place) ?? false);
  const slot = useMemo(() => {
    const before = document.parts.slice(
      0,
      document.parts.findIndex((p) => p.id === part.id),
    );
    return before.reduce((sum, p) => sum + (p.morphs?.length ?? 0), 0);
  }, [document.parts, part.id]);
  const wire = useMyriapod((s) => s.wire);
  const sight = useMyriapod((s) => s.sights.model);
  const lit = useMyriapod((s) => s.chosen.includes(part.id) || s.hovered === part.id);
  const ghost = sight === "ghost" || part.sight === "ghost";
  const { mesh, weights, morphs } = { mesh: part.mesh, weights: binding?.weights, morphs: part.morphs };

  // biome-ignore lint/correctness/useExhaustiveDependencies: another document with the same surfaces changes nothing here
  useEffect(() => {
    let gone = false;
    void attempt(async () => {
      await allOf(document, specimen); // the model comes as a whole: a picture for every part would be drawn otherwise
      const source = await loadMesh(specimen, mesh);
      const shaped = source.clone();
      shaped.boundsTree = source.boundsTree;
      if (weights) {
        const table = await loadWeights(specimen, weights);
        shaped.setAttribute("skinIndex", new BufferAttribute(table.joints, 4));
        shaped.setAttribute("skinWeight", new BufferAttribute(table.values, 4));
      }
      if (morphs) {
        const deltas = await Promise.all(morphs.map((m) => loadDeltas(specimen, m.deltas)));
        shaped.morphTargetsRelative = true;
        shaped.morphAttributes.position = deltas.map((d) => new BufferAttribute(d, 3));
      }
      if (!gone) setGeometry(shaped);
    });
    return () => {
      gone = true;
    };
  }, [specimen, mesh, weights, morphs, deformed]);

  const objects = useMemo(() => {
    if (!geometry) return undefined;
    const ink = inkMaterial();
    const paint = new MeshLambertMaterial({ side: DoubleSide });
    shadeAsDeformed(paint);
    // What no joint moves is drawn without a skeleton, which costs far less.
    const skeleton = !deformed && binding && new LiveSkeleton(document, binding.joints);
    const draw = (material: Material) => {
      if (!skeleton) return new Mesh(geometry, material);
      const skinned = new SkinnedMesh(geometry, material);
      skinned.bind(skeleton, new Matrix4());
      return skinned;
    };
    const body = draw(paint);
    const line = draw(ink.material);
    for (const object of [body, line]) object.frustumCulled = false;
    body.castShadow = true;
    body.userData.part = part.id;
    line.raycast = () => {};
    body.onBeforeRender = (_r, _s, camera) => {
      ink.width.value = camera.position.distanceTo(geometry.boundingSphere?.center ?? camera.position) * 0.0013;
    };
    return { skeleton, body, line };
  }, [geometry, document, binding, part.id, deformed]);

  useEffect(() => {
    if (!objects) return;
    const show = (frame?: Frame) => {
      const vertices = frame?.deformed.get(place);
      if (vertices && geometry) {
        for (const [name, list] of [
          ["position", vertices.positions],
          ["normal", vertices.normals],
        ] as const) {
          const attribute = geometry.getAttribute(name) as BufferAttribute;
          attribute.copyArray(list);
          attribute.needsUpdate = true;
        }
        invalidate();
        return;
      }
      if (frame && part.morphs && objects.body.morphTargetInfluences) {
        part.morphs.forEach((_, k) => {
          for (const object of [objects.body, objects.line])
            if (object.morphTargetInfluences) object.morphTargetInfluences[k] = frame.morphs[slot + k] ?? 0;
        });
        invalidate();
      }
      if (!frame || !binding || frame.joints.length !== document.joints.length * JOINT_STRIDE) return;
      if (objects.skeleton) objects.skeleton.show(frame);
      invalidate();
    };
    show(useMyriapod.getState().frame);
    const stop = useMyriapod.subscribe((s, before) => s.frame !== before.frame && show(s.frame));
    return () => {
      stop();
      if (objects.skeleton) objects.skeleton.dispose();
    };
  }, [objects, geometry, place, binding, document, part.morphs, slot, invalidate]);

  useEffect(() => {
    if (!objects) return;
    const material = objects.body.material as MeshLambertMaterial;
    material.color.set(part.colour);
    material.emissive.set(lit ? "#5b4bb0" : "#000000");
    material.emissiveIntensity = lit ? 0.22 : 0;
    material.transparent = ghost;
    material.opacity = ghost ? 0.28 : 1;
    material.depthWrite = !ghost;
    material.wireframe = wire;
    objects.line.visible = !wire;
    (objects.line.material as MeshBasicMaterial).color.set(ghost ? "#a59c88" : INK);
    invalidate();
  }, [objects, part.colour, lit, ghost, wire, invalidate]);

  const gl = useThree((three) => three.gl);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another body casts another shadow
  useEffect(() => {
    gl.shadowMap.needsUpdate = true;
    invalidate();
  }, [objects, gl, invalidate]);
  if (!objects || sight === "hidden" || part.sight === "hidden") return null;
  return (
    <>
      <primitive object={objects.body} />
      <primitive object={objects.line} />
    </>
  );
}

/** Parts draws the model, moved by the core's frames. */
export function Parts({ document, specimen }: { document: Document; specimen: string }) {
  return document.parts.map((part) => (
    <PartBody
      key={part.id}
      part={part}
      binding={document.bindings.find((b) => b.part === part.id)}
      document={document}
      specimen={specimen}
    />
  ));
}
