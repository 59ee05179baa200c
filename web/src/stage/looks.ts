import { Color, FrontSide, type MeshLambertMaterial, RepeatWrapping, SRGBColorSpace, Texture } from "three";
import { api } from "../server/api";
import type { Look } from "../wire/rig.gen";

/** What of a kept material is shown; it stands there as glTF 2.0 writes it. */
interface Kept {
  material: {
    pbrMetallicRoughness?: { baseColorFactor?: [number, number, number, number]; baseColorTexture?: { index: number } };
    alphaMode?: "OPAQUE" | "MASK" | "BLEND";
    alphaCutoff?: number;
    doubleSided?: boolean;
  };
  textures?: { image: number; sampler?: { wrapS?: number; wrapT?: number } }[];
}

/** Shine is how a part looks on the stage. */
export interface Shine {
  colour: Color;
  alpha: number;
  map?: Texture;
  mask?: number; // what is less than so much there is not drawn
  blends: boolean;
  oneSided: boolean;
}

const shines = new Map<string, Promise<Shine>>();

/** loadShine reads how a part looks: its base colour, its texture, whether it lets through, and whether it has a back. */
export function loadShine(specimen: string, look: Look): Promise<Shine> {
  const key = [look.material, ...(look.images ?? [])].join(" ");
  let made = shines.get(key);
  if (!made) {
    made = read(specimen, look);
    made.catch(() => shines.delete(key));
    shines.set(key, made);
  }
  return made;
}

async function read(specimen: string, look: Look): Promise<Shine> {
  const kept = JSON.parse(new TextDecoder().decode(await api.blob(specimen, look.material))) as Kept;
  const base = kept.material.pbrMetallicRoughness ?? {};
  const factor: [number, number, number, number] = base.baseColorFactor ?? [1, 1, 1, 1];
  const texture = base.baseColorTexture && kept.textures?.[base.baseColorTexture.index];
  const hash = texture && look.images?.[texture.image];
  return {
    colour: new Color(factor[0], factor[1], factor[2]), // in linear light, as glTF has it
    alpha: factor[3] ?? 1,
    map: hash ? await picture(specimen, hash) : undefined,
    mask: kept.material.alphaMode === "MASK" ? (kept.material.alphaCutoff ?? 0.5) : undefined,
    blends: kept.material.alphaMode === "BLEND",
    oneSided: kept.material.doubleSided !== true,
  };
}

async function picture(specimen: string, hash: string): Promise<Texture> {
  const image = await createImageBitmap(new Blob([await api.blob(specimen, hash)]), { colorSpaceConversion: "none" });
  const map = new Texture(image);
  map.flipY = false; // glTF counts from the top
  map.colorSpace = SRGBColorSpace;
  map.wrapS = map.wrapT = RepeatWrapping;
  map.needsUpdate = true;
  return map;
}

/** wear has a material look so; opacity is how much of it is seen where it is ghosted. */
export function wear(material: MeshLambertMaterial, shine: Shine) {
  material.color.copy(shine.colour);
  material.map = shine.map ?? null;
  material.alphaTest = shine.mask ?? 0;
  if (shine.oneSided) material.side = FrontSide;
  if (shine.blends) {
    material.transparent = true;
    material.opacity *= shine.alpha;
  }
}
