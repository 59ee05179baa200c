import { useState } from "react";
import { edit } from "../server/session";
import { documentOf, setState } from "../state/store";
import type { Part } from "../wire/rig.gen";

/** TubeField traces a chain through the middle of a part, or of some of its faces, and goes to the new joints. */
export function TubeField({ part, faces }: { part: Part; faces?: number[] }) {
  const [count, setCount] = useState("12");
  const trace = async () => {
    const before = new Set(documentOf().joints.map((j) => j.id));
    const made = await edit(
      {
        kind: "trace-tube",
        part: part.id,
        count: Number.parseInt(count, 10) || 0,
        pattern: `${part.name}_##`,
        ...(faces ? { faces } : {}),
      },
      "Tracing",
    );
    if (!made) return;
    const chosen = made.document.joints.filter((j) => !before.has(j.id)).map((j) => j.id);
    setState({ step: "skeleton", picking: undefined, chosen });
  };
  return (
    <form
      className="flex gap-2 items-center mt-1.5"
      onSubmit={(e) => {
        e.preventDefault();
        void trace();
      }}
    >
      <button type="submit" className="action" title="For hoses, wires, antennae: joints through the middle">
        Trace as a tube
      </button>
      <input
        aria-label="Joints through the tube"
        className="field w-9 figure"
        value={count}
        onChange={(e) => setCount(e.target.value)}
      />
      joints
    </form>
  );
}
