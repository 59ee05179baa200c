import { useState } from "react";
import { edit } from "../server/session";
import { documentOf, setState, state } from "../state/store";
import { SHAPES } from "./OutlineTools";
import { Section } from "./parts";

/** AddControl adds a control at each of the chosen joints and controls, hanging on it or free; without any, one in the middle of the ground. */
export function AddControl({ at }: { at: { id: string; name: string }[] }) {
  const d = documentOf();
  const [name, setName] = useState("");
  const [upright, setUpright] = useState(false);
  const [free, setFree] = useState(false);
  const [shape, setShape] = useState("hoop");
  const first = at[0];
  const suggested = first ? `${first.name.replace(/\d+$/, "")}hold${at.length > 1 ? "_#" : ""}` : "handle";
  return (
    <Section title={at.length > 1 ? `Add ${at.length} controls` : "Add a control"}>
      <form
        className="flex flex-col gap-1"
        onSubmit={async (e) => {
          e.preventDefault();
          const before = new Set(d.controls.map((c) => c.id));
          const made = await edit({
            kind: "add-control",
            name: name.trim() || suggested,
            at: at.map((thing) => thing.id),
            free,
            upright,
            shape,
            position: [0, 0, 0],
          });
          if (!made) return;
          setName("");
          setState({
            step: state().step === "skeleton" ? "controls" : state().step,
            chosen: made.document.controls.filter((c) => !before.has(c.id)).map((c) => c.id),
          });
        }}
      >
        <div className="flex gap-2">
          <input
            aria-label="Name of the control"
            className="field grow min-w-0 figure"
            placeholder={suggested}
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
          <select
            aria-label="Its shape"
            className="field w-24"
            value={shape}
            onChange={(e) => setShape(e.target.value)}
          >
            {SHAPES.map((s) => (
              <option key={s.shape} value={s.shape}>
                {s.title}
              </option>
            ))}
          </select>
          <button type="submit" className="action">
            Add
          </button>
        </div>
        {first && (
          <div className="flex gap-4">
            <label className="flex gap-1.5">
              <input
                type="checkbox"
                className="accent-violet"
                checked={upright}
                onChange={(e) => setUpright(e.target.checked)}
              />
              upright
            </label>
            <label className="flex gap-1.5">
              <input
                type="checkbox"
                className="accent-violet"
                checked={free}
                onChange={(e) => setFree(e.target.checked)}
              />
              free, hanging on nothing
            </label>
          </div>
        )}
      </form>
    </Section>
  );
}
