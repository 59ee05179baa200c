import { InstancedMesh, Matrix4, Mesh, SkinnedMesh, Vector3 } from "three";
import { documentOf, state, type Vector } from "../state/store";
import { pick } from "./pointer";
import { controlMatrix, placeOf, project, view } from "./view";

/** The page tells tests and scripts where things are on the screen. */
declare global {
  interface Window {
    myriapodStage: {
      onScreen(what: string | Vector): { x: number; y: number } | null;
      gripOf(control: string): { x: number; y: number } | null;
      pickAt(x: number, y: number): string | null;
      hovered(): string | null; // the name of what is under the pointer
      instancesAt(part: string): [number, number, number][]; // where a part is drawn beside itself
      bodyOf(part: string): { made: string; skinned: boolean } | null; // made changes when it is made anew
      vertexOf(part: string, vertex: number): [number, number, number] | null; // as it is drawn, before any skin of the page's
    };
  }
}

window.myriapodStage = {
  instancesAt(part) {
    const places: [number, number, number][] = [];
    view.scene?.traverse((object) => {
      if (!(object instanceof InstancedMesh) || object.userData.instances !== part) return;
      const matrix = new Matrix4();
      for (let i = 0; i < object.count; i++) {
        object.getMatrixAt(i, matrix);
        const { x, y, z } = new Vector3().setFromMatrixPosition(matrix);
        places.push([x, y, z]);
      }
    });
    return places;
  },
  bodyOf(part) {
    let found: { made: string; skinned: boolean } | null = null;
    view.scene?.traverse((object) => {
      if (object instanceof Mesh && object.userData.part === part)
        found = { made: object.uuid, skinned: object instanceof SkinnedMesh };
    });
    return found;
  },
  vertexOf(part, vertex) {
    let found: [number, number, number] | null = null;
    view.scene?.traverse((object) => {
      if (!(object instanceof Mesh) || object.userData.part !== part) return;
      const { x, y, z } = new Vector3().fromBufferAttribute(object.geometry.getAttribute("position"), vertex);
      found = [x, y, z];
    });
    return found;
  },
  hovered: () => [...documentOf().joints, ...documentOf().controls].find((t) => t.id === state().hovered)?.name ?? null,
  pickAt: (x, y) => pick(x, y)?.id ?? null,
  onScreen(what) {
    const { camera, canvas } = view;
    if (!camera || !canvas) return null;
    const found =
      typeof what === "string"
        ? placeOf(
            [...documentOf().joints, ...documentOf().controls].find((t) => t.id === what || t.name === what)?.id ?? "",
          )
        : new Vector3(what[0], what[1], what[2]);
    if (!found) return null;
    const box = canvas.getBoundingClientRect();
    const { x, y } = project(found, camera, box.width, box.height);
    return { x: box.left + x, y: box.top + y };
  },
  gripOf(name) {
    const d = documentOf();
    const index = d.controls.findIndex((c) => c.name === name);
    const { frame } = state();
    const { camera, canvas } = view;
    if (index < 0 || !frame || !camera || !canvas) return null;
    const box = canvas.getBoundingClientRect();
    const matrix = controlMatrix(new Matrix4(), frame, index);
    for (const point of d.controls[index]?.outline ?? []) {
      const { x, y } = project(new Vector3(...point).applyMatrix4(matrix), camera, box.width, box.height);
      if (pick(x, y)?.id === d.controls[index]?.id) return { x: box.left + x, y: box.top + y };
    }
    return null;
  },
};
