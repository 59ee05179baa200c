import { useThree } from "@react-three/fiber";
import { useEffect, useMemo, useState } from "react";
import { type BufferAttribute, BufferGeometry, Float32BufferAttribute } from "three";
import { type Picking, useMyriapod } from "../state/store";
import type { Document } from "../wire/rig.gen";
import { cornersOf } from "./elements";
import { INKS } from "./Skeleton";
import { loadMesh } from "./surfaces";

function usePoints(document: Document, specimen: string, kind: Picking["kind"], of: Record<string, number[]>) {
  const [points, setPoints] = useState<Float32Array>(new Float32Array());
  useEffect(() => {
    let gone = false;
    void Promise.all(
      Object.entries(of).map(async ([id, list]) => {
        const part = document.parts.find((p) => p.id === id);
        if (!part || list.length === 0) return [];
        const geometry = await loadMesh(specimen, part.mesh);
        const place = geometry.getAttribute("position") as BufferAttribute;
        return cornersOf(kind, list, geometry.getIndex()?.array ?? []).flatMap((v) => [
          place.getX(v),
          place.getY(v),
          place.getZ(v),
        ]);
      }),
    ).then((lists) => !gone && setPoints(new Float32Array(lists.flat())));
    return () => {
      gone = true;
    };
  }, [document, specimen, kind, of]);
  return points;
}

function Elements({
  kind,
  points,
  ink,
  opacity,
}: {
  kind: Picking["kind"];
  points: Float32Array;
  ink: string;
  opacity: number;
}) {
  const invalidate = useThree((three) => three.invalidate);
  const geometry = useMemo(
    () => new BufferGeometry().setAttribute("position", new Float32BufferAttribute(points, 3)),
    [points],
  );
  useEffect(() => {
    invalidate();
    return () => geometry.dispose();
  }, [geometry, invalidate]);
  if (points.length === 0) return null;
  const shared = { color: ink, depthTest: false, transparent: true, opacity };
  if (kind === "vertices")
    return (
      <points geometry={geometry} renderOrder={26} raycast={() => {}}>
        <pointsMaterial {...shared} size={5} sizeAttenuation={false} />
      </points>
    );
  if (kind === "edges")
    return (
      <lineSegments geometry={geometry} renderOrder={26} raycast={() => {}}>
        <lineBasicMaterial {...shared} />
      </lineSegments>
    );
  return (
    <mesh geometry={geometry} renderOrder={26} raycast={() => {}}>
      <meshBasicMaterial {...shared} opacity={opacity * 0.5} side={2} />
    </mesh>
  );
}

const nothing = {};

/** Picked draws the picked elements, what a click would pick, and the middle of what is picked. */
export function Picked({ document, specimen }: { document: Document; specimen: string }) {
  const picking = useMyriapod((s) => s.picking);
  const kind = picking?.kind ?? "faces";
  const picked = usePoints(
    document,
    specimen,
    picking?.picked?.elements.kind ?? kind,
    picking?.picked?.elements.of ?? nothing,
  );
  const under = picking?.under;
  const underOf = useMemo(() => (under ? { [under.part]: under.elements } : nothing), [under]);
  const pointed = usePoints(document, specimen, kind, underOf);
  if (!picking) return null;
  const centre = picking.picked?.centre;
  return (
    <>
      <Elements kind={picking.picked?.elements.kind ?? kind} points={picked} ink={INKS.violet} opacity={0.95} />
      <Elements kind={kind} points={pointed} ink={INKS.finding} opacity={0.8} />
      {centre && (
        <sprite position={centre} scale={[0.012, 0.012, 1]} renderOrder={27} raycast={() => {}}>
          <spriteMaterial color={INKS.control} rotation={Math.PI / 4} sizeAttenuation={false} depthTest={false} />
        </sprite>
      )}
    </>
  );
}
