import { useState } from "react";
import { edit } from "../server/session";
import { documentOf, setState } from "../state/store";
import type { Part } from "../wire/rig.gen";

/** TubeField traces a chain through the middle of a part, or of some of its faces, and goes to the new joints. */
export function TubeField({ part, faces }: { part: Part; faces?: number[] }) {
  const [count, setCount] = useState("12");
  const [reverse, setReverse] = useState(false);
  const [onto, setOnto] = useState("");
  const joints = documentOf().joints;
  const trace = async () => {
    const before = new Set(documentOf().joints.map((j) => j.id));
    const made = await edit(
      {
        kind: "trace-tube",
        part: part.id,
        count: Number.parseInt(count, 10) || 0,
        pattern: `${part.name}_##`,
        reverse,
        parent: documentOf().joints.find((j) => j.name === onto.trim())?.id ?? "",
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
      className="flex flex-wrap gap-2 items-center mt-1.5"
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
      <label className="flex gap-1.5 basis-full">
        <input
          type="checkbox"
          className="accent-violet"
          checked={reverse}
          onChange={(e) => setReverse(e.target.checked)}
        />
        from its other end
      </label>
      {joints.length > 0 && (
        <>
          <input
            aria-label="Joint that it hangs on"
            className="field grow figure"
            placeholder="hung on the joint called"
            list="joints-for-tubes"
            value={onto}
            onChange={(e) => setOnto(e.target.value)}
          />
          <datalist id="joints-for-tubes">
            {joints.slice(0, 400).map((j) => (
              <option key={j.id} value={j.name} />
            ))}
          </datalist>
        </>
      )}
    </form>
  );
}
