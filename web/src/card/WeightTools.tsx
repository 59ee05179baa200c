import { useEffect } from "react";
import { startPicking } from "../stage/picking";
import { documentOf, setState, useMyriapod } from "../state/store";
import type { Part } from "../wire/rig.gen";
import { BrushField } from "./BrushField";
import { CompareTools } from "./CompareTools";
import { Section } from "./parts";
import { WeightFixes } from "./WeightFixes";

const WAYS = [
  { key: "plain", title: "the skin" },
  { key: "one", title: "one joint" },
  { key: "all", title: "all joints" },
] as const;

/** WeightTools shows the weights of a part's skin, and paints them. */
export function WeightTools({ part }: { part: Part }) {
  const d = documentOf();
  const weighing = useMyriapod((s) => s.weighing);
  const joint = useMyriapod((s) => s.weighedJoint);
  const brush = useMyriapod((s) => s.brush);
  const size = useMyriapod((s) => s.size);
  const binding = d.bindings.find((b) => b.part === part.id);
  const joints = binding?.joints ?? [];
  const first = joints[0];
  useEffect(() => {
    if (first && (!joint || !d.joints.some((j) => j.id === joint))) setState({ weighedJoint: first });
  }, [joint, first, d]);
  useEffect(() => () => setState({ brush: undefined }), []);
  if (!binding) return null;
  const name = (id: string) => d.joints.find((j) => j.id === id)?.name ?? id;
  const others = d.joints.filter((j) => !joints.includes(j.id));
  const begin = () =>
    setState({
      weighing: "one",
      hand: undefined,
      brush: {
        stroke: "more",
        reach: 0.04 * size,
        strength: 0.25,
        value: 0.5,
        mirrored: false,
        through: false,
        locked: [],
      },
    });
  return (
    <Section title="Weights">
      <fieldset className="flex gap-1.5" aria-label="What the skin shows">
        {WAYS.map((way) => (
          <button
            key={way.key}
            type="button"
            className={`action ${weighing === way.key ? "action-main" : ""}`}
            aria-pressed={weighing === way.key}
            onClick={() => setState({ weighing: way.key, shaded: undefined })}
          >
            {way.title}
          </button>
        ))}
      </fieldset>
      <label className="flex gap-2 items-center mt-1.5">
        <span>Joint</span>
        <select
          aria-label="Joint whose weights are shown"
          className="field grow min-w-0"
          value={joint}
          onChange={(e) =>
            setState({ weighedJoint: e.target.value, weighing: weighing === "plain" ? "one" : weighing })
          }
        >
          {joints.map((id) => (
            <option key={id} value={id}>
              {name(id)}
            </option>
          ))}
          {others.map((j) => (
            <option key={j.id} value={j.id}>
              {j.name} (none yet)
            </option>
          ))}
        </select>
      </label>
      <div className="flex gap-1.5 mt-1.5">
        <button
          type="button"
          className={`action ${brush ? "action-main" : ""}`}
          aria-pressed={!!brush}
          onClick={() => (brush ? setState({ brush: undefined }) : begin())}
        >
          Paint
        </button>
        <button
          type="button"
          className="action"
          title="Their weights as numbers, to be set alike"
          onClick={() => startPicking("vertices", part.id)}
        >
          Pick vertices
        </button>
      </div>
      <BrushField binding={binding} />
      <WeightFixes part={part} />
      <CompareTools binding={binding} />
    </Section>
  );
}
