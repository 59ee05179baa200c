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
import { type Frame, JOINT_STRIDE } from "../server/live";
import { attempt } from "../server/session";
import { seenState } from "../state/groups";
import { handOf, useMyriapod } from "../state/store";
import type { Binding, Document, Part } from "../wire/rig.gen";
import { LiveSkeleton } from "./LiveSkeleton";
import { loadShine, type Shine, wear } from "./looks";
import { paintsOn } from "./painting";
import { sculptsOn } from "./sculpting";
import { shadeAsDeformed } from "./shading";
import { loadDeltas, loadMesh, loadShares, loadWeights } from "./surfaces";
import { layShares, layWeights, mixShares, modeOf, showsWeights } from "./weighing";

/** SEEN_SHORT is the share of the hand's reach from which what stands short of it is shaded. */
const SEEN_SHORT = 0.01;

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

/** Shape is what of a part is drawn: its surface, and what of it hangs on which joints, which came together. */
interface Shape {
  geometry: BufferGeometry;
  joints?: string[]; // none where it hangs on no joint
}

/** useShape loads the shape of a part. Until another has come whole the one before stays. */
function useShape(
  part: Part,
  binding: Binding | undefined,
  document: Document,
  specimen: string,
  deformed: boolean, // its vertices are handed over as they are, over those that were loaded
): Shape | undefined {
  const [shape, setShape] = useState<Shape>();
  const deltas = part.morphs?.map((m) => m.deltas).join(" ");
  const bound = binding && `${binding.weights} ${binding.joints.join(" ")}`;
  // biome-ignore lint/correctness/useExhaustiveDependencies: what these name is named by its content, and another document with the same changes nothing
  useEffect(() => {
    let gone = false;
    void attempt(async () => {
      await allOf(document, specimen); // the model comes as a whole: a picture for every part would be drawn otherwise
      const source = await loadMesh(specimen, part.mesh);
      const geometry = source.clone();
      geometry.boundsTree = source.boundsTree;
      if (binding) {
        // strokes change the arrays on the stage, and not those that are kept under their hash
        const table = await loadWeights(specimen, binding.weights);
        geometry.setAttribute("skinIndex", new BufferAttribute(table.joints.slice(), 4));
        geometry.setAttribute("skinWeight", new BufferAttribute(table.values.slice(), 4));
      }
      if (part.morphs) {
        const moved = await Promise.all(part.morphs.map((m) => loadDeltas(specimen, m.deltas)));
        geometry.morphTargetsRelative = true;
        geometry.morphAttributes.position = moved.map((d) => new BufferAttribute(d, 3));
      }
      if (!gone) setShape({ geometry, joints: binding?.joints });
    });
    return () => {
      gone = true;
    };
  }, [specimen, part.mesh, bound, deltas, deformed]);
  useEffect(() => () => shape?.geometry.dispose(), [shape]);
  return shape;
}

/** useShares loads how much of a binding's dual quaternions holds at each vertex; nothing where all of it does. */
function useShares(binding: Binding | undefined, specimen: string): Float32Array | undefined {
  const [shares, setShares] = useState<Float32Array>();
  const hash = binding?.dualBy;
  useEffect(() => {
    let gone = false;
    if (!hash) setShares(undefined);
    else void attempt(() => loadShares(specimen, hash)).then((loaded) => !gone && setShares(loaded));
    return () => {
      gone = true;
    };
  }, [specimen, hash]);
  return shares;
}

/** useShine loads how a part looks, where it came with more than a colour. */
function useShine(part: Part, specimen: string): Shine | undefined {
  const [shine, setShine] = useState<Shine>();
  const { look } = part;
  const named = look && [look.material, ...(look.images ?? [])].join(" ");
  // biome-ignore lint/correctness/useExhaustiveDependencies: a look is named by its content
  useEffect(() => {
    let gone = false;
    if (!look) setShine(undefined);
    else void attempt(() => loadShine(specimen, look)).then((loaded) => !gone && setShine(loaded));
    return () => {
      gone = true;
    };
  }, [specimen, named]);
  return shine;
}

/** restOf tells how the joints of a shape stand at rest, so that it is known when that changes. */
function restOf(document: Document, joints: string[] | undefined): string {
  const place = new Map(document.joints.map((j, i) => [j.id, i]));
  return (joints ?? [])
    .map((id) => {
      const i = place.get(id) ?? -1;
      return [i, document.joints[i]?.position, document.joints[i]?.rotation].join();
    })
    .join(" ");
}

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
  const invalidate = useThree((three) => three.invalidate);
  const place = document.parts.findIndex((p) => p.id === part.id);
  const deformed = useMyriapod((s) => s.frame?.deformed.has(place) ?? false);
  const slot = document.parts.slice(0, Math.max(0, place)).reduce((sum, p) => sum + (p.morphs?.length ?? 0), 0);
  const wire = useMyriapod((s) => s.wire);
  const sight = useMyriapod((s) => s.sights.model);
  const plain = useMyriapod((s) => s.step !== "skin" || s.weighing === "plain");
  const lit = useMyriapod((s) => (s.chosen.includes(part.id) || s.hovered === part.id) && !handOf(s)) && plain;
  const own = useMyriapod(() => seenState(part.id).sight);
  const aside = useMyriapod((s) => !!s.picking?.part && s.picking.part !== part.id);
  const ghost = aside || sight === "ghost" || part.sight === "ghost" || own === "ghost";
  const shine = useShine(part, specimen);
  const shape = useShape(part, binding, document, specimen, deformed);
  const rest = useMemo(() => restOf(document, shape?.joints), [document, shape]);
  const [jointCount, morphCount] = [document.joints.length, part.morphs?.length ?? 0];

  // biome-ignore lint/correctness/useExhaustiveDependencies: of the document only what rest tells counts, so that an edit of something else builds nothing anew
  const objects = useMemo(() => {
    if (!shape) return undefined;
    const { geometry, joints } = shape;
    const ink = inkMaterial();
    const paint = new MeshLambertMaterial({ side: DoubleSide });
    shadeAsDeformed(paint);
    const shown = showsWeights(paint);
    // What no joint moves is drawn without a skeleton, which costs far less.
    const skeleton = !deformed && joints ? new LiveSkeleton(document, joints) : undefined;
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
    return { geometry, skeleton, body, line, shown, joints: joints ?? [] };
  }, [shape, rest, part.id, deformed]);

  useEffect(() => {
    if (!objects) return;
    const show = (frame?: Frame) => {
      const vertices = frame?.deformed.get(place);
      if (vertices) showVertices(objects.geometry, vertices);
      if (frame?.compared?.part === place) {
        const { apart, greatest } = frame.compared;
        layShares(objects.geometry, undefined, apart, greatest);
        objects.shown.weighing.value = 1;
      }
      if (!vertices && frame) {
        for (const object of [objects.body, objects.line])
          for (let k = 0; k < morphCount; k++)
            if (object.morphTargetInfluences) object.morphTargetInfluences[k] = frame.morphs[slot + k] ?? 0;
        if (frame.joints.length === jointCount * JOINT_STRIDE) objects.skeleton?.show(frame);
      }
      invalidate();
    };
    show(useMyriapod.getState().frame);
    return useMyriapod.subscribe((s, before) => s.frame !== before.frame && show(s.frame));
  }, [objects, place, jointCount, morphCount, slot, invalidate]);

  const skinned = useMyriapod((s) => s.step === "skin");
  const weighing = useMyriapod((s) => s.weighing);
  const weighed = useMyriapod((s) => s.weighedJoint);
  const shaded = useMyriapod((s) => (s.step === "skin" && s.shaded?.part === part.id ? s.shaded.vertices : undefined));
  const compared = useMyriapod((s) => s.compare?.part === part.id);
  const dualPainted = useMyriapod((s) => s.step === "skin" && !!s.brush?.dual && s.chosen.includes(part.id));
  const dualShares = useShares(binding, specimen);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is no longer compared shows again what it showed
  useEffect(() => {
    if (!objects) return;
    const mode = skinned ? weighing : "plain";
    const places = new Map(document.joints.map((j, i) => [j.id, i]));
    const lay = (vertices?: number[]) => {
      layWeights(objects.geometry, mode, objects.joints, weighed, (id) => places.get(id) ?? 0, vertices);
      invalidate();
    };
    if (mode !== "plain" || objects.geometry.getAttribute("shown")) lay();
    objects.shown.weighing.value = modeOf(mode, objects.joints.length > 0);
    if (dualPainted) {
      layShares(objects.geometry, undefined, dualShares ?? new Float32Array(part.vertices).fill(binding?.dual ? 1 : 0));
      objects.shown.weighing.value = 1;
    }
    if (shaded) {
      layShares(objects.geometry, shaded);
      objects.shown.weighing.value = 1;
    }
    invalidate();
    const ends = [
      paintsOn(part.id, {
        geometry: objects.geometry,
        joints: objects.joints,
        changed: lay,
        shares: (vertices, shares) => {
          mixShares(objects.geometry, vertices, shares);
          invalidate();
        },
      }),
      sculptsOn(part.id, {
        geometry: objects.geometry,
        short: (vertices, shares) => {
          const some = shares.some((s) => s > SEEN_SHORT);
          if (some) layShares(objects.geometry, vertices, shares);
          objects.shown.weighing.value = some ? 1 : modeOf(mode, objects.joints.length > 0);
          invalidate();
        },
      }),
    ];
    return () => {
      for (const end of ends) end();
    };
  }, [
    objects,
    skinned,
    weighing,
    weighed,
    document.joints,
    part.id,
    part.vertices,
    shaded,
    compared,
    dualPainted,
    dualShares,
    binding,
    invalidate,
  ]);

  useEffect(
    () => () => {
      objects?.skeleton?.dispose();
      for (const object of objects ? [objects.body, objects.line] : []) (object.material as Material).dispose();
    },
    [objects],
  );

  useEffect(() => {
    if (!objects) return;
    const material = objects.body.material as MeshLambertMaterial;
    material.color.set(part.colour);
    material.map = null;
    material.emissive.set(lit ? "#5b4bb0" : "#000000");
    material.emissiveIntensity = lit ? 0.22 : 0;
    material.transparent = ghost;
    material.opacity = ghost ? 0.28 : 1;
    material.depthWrite = !ghost;
    if (shine && plain) wear(material, shine);
    material.needsUpdate = true;
    material.wireframe = wire;
    objects.line.visible = !wire;
    (objects.line.material as MeshBasicMaterial).color.set(ghost ? "#a59c88" : INK);
    invalidate();
  }, [objects, part.colour, shine, plain, lit, ghost, wire, invalidate]);

  const replaced = useMyriapod((s) => s.frame?.instances.some((set) => set.instead && set.part === place) ?? false);
  const gl = useThree((three) => three.gl);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another body casts another shadow
  useEffect(() => {
    gl.shadowMap.needsUpdate = true;
    invalidate();
  }, [objects, gl, invalidate]);
  if (!objects || replaced || sight === "hidden" || part.sight === "hidden" || own === "hidden") return null;
  return (
    <>
      <primitive object={objects.body} />
      <primitive object={objects.line} />
    </>
  );
}

/** showVertices hands over vertices that no skin can say. */
function showVertices(geometry: BufferGeometry, vertices: { positions: Float32Array; normals: Float32Array }) {
  for (const [name, list] of [
    ["position", vertices.positions],
    ["normal", vertices.normals],
  ] as const) {
    const attribute = geometry.getAttribute(name) as BufferAttribute;
    attribute.copyArray(list);
    attribute.needsUpdate = true;
  }
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
