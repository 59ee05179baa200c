import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import { Vector2 } from "three";
import { Line2 } from "three/addons/lines/Line2.js";
import { LineGeometry } from "three/addons/lines/LineGeometry.js";
import { LineMaterial } from "three/addons/lines/LineMaterial.js";
import { documentOf, useMyriapod, type Vector } from "../state/store";
import { INKS } from "./Skeleton";

/** Laying shows the joints being laid and where the next would come. */
export function Laying() {
  const { invalidate, size, camera } = useThree();
  const laying = useMyriapod((s) => s.laying);
  const line = useMemo(() => {
    const made = new Line2(
      new LineGeometry(),
      new LineMaterial({ color: INKS.finding, linewidth: 2, dashed: false, depthTest: false }),
    );
    made.renderOrder = 30;
    made.frustumCulled = false;
    made.raycast = () => {};
    return made;
  }, []);
  const onto = laying?.onto ? documentOf().joints.find((j) => j.id === laying.onto)?.position : undefined;
  const points: Vector[] = [
    ...(onto ? [onto as Vector] : []),
    ...(laying?.places ?? []),
    ...(laying?.centre ? [laying.centre] : []),
  ];
  useEffect(() => {
    line.geometry.dispose(); // its buffers have the size of the line they were made for
    line.geometry = new LineGeometry();
    if (points.length > 1) line.geometry.setPositions(points.flat());
    line.visible = points.length > 1;
    line.material.resolution = new Vector2(size.width, size.height);
    invalidate();
  });
  if (!laying) return null;
  const dot = (p: Vector, key: number, next: boolean) => (
    <mesh
      key={key}
      position={[p[0], p[1], p[2]]}
      renderOrder={31}
      scale={camera.position.distanceTo({ x: p[0], y: p[1], z: p[2] }) * 0.0042}
    >
      <sphereGeometry args={[next ? 1.3 : 1, 16, 12]} />
      <meshBasicMaterial color={next ? INKS.finding : INKS.C} depthTest={false} transparent opacity={next ? 0.8 : 1} />
    </mesh>
  );
  return (
    <>
      <primitive object={line} />
      {laying.places.map((p, i) => dot(p, i, false))}
      {laying.centre && dot(laying.centre, -1, true)}
    </>
  );
}
