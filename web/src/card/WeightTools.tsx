import { useEffect, useState } from "react";
import { edit } from "../server/session";
import { documentOf, setState, useMyriapod } from "../state/store";
import type { Part } from "../wire/rig.gen";
import { NumberField } from "./NumberField";
import { Section } from "./parts";

const WAYS = [
  { key: "plain", title: "the skin" },
  { key: "one", title: "one joint" },
  { key: "all", title: "all joints" },
] as const;

const STROKES = [
  { key: "more", title: "more" },
  { key: "less", title: "less" },
  { key: "towards", title: "to a value" },
  { key: "even", title: "even out" },
  { key: "firm", title: "firm up" },
  { key: "multiply", title: "multiply" },
] as const;

/** WeightTools shows the weights of a part's skin, and paints them. */
export function WeightTools({ part }: { part: Part }) {
  const d = documentOf();
  const weighing = useMyriapod((s) => s.weighing);
  const joint = useMyriapod((s) => s.weighedJoint);
  const brush = useMyriapod((s) => s.brush);
  const size = useMyriapod((s) => s.size);
  const [locks, setLocks] = useState(false);
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
  const change = (now: Partial<NonNullable<typeof brush>>) => brush && setState({ brush: { ...brush, ...now } });
  const begin = () =>
    setState({
      weighing: "one",
      brush: { stroke: "more", reach: 0.04 * size, strength: 0.25, value: 0.5, mirrored: false, locked: [] },
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
            onClick={() => setState({ weighing: way.key })}
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
      <button
        type="button"
        className={`action mt-1.5 ${brush ? "action-main" : ""}`}
        aria-pressed={!!brush}
        onClick={() => (brush ? setState({ brush: undefined }) : begin())}
      >
        Paint
      </button>
      <div className="flex flex-wrap gap-1.5 mt-1.5">
        <button
          type="button"
          className="action"
          title="The right side takes the weights of the left, for the joints of its own side"
          onClick={() => void edit({ kind: "mirror-weights", part: part.id, from: "L" })}
        >
          Left to right
        </button>
        <button
          type="button"
          className="action"
          title="The left side takes the weights of the right, for the joints of its own side"
          onClick={() => void edit({ kind: "mirror-weights", part: part.id, from: "R" })}
        >
          Right to left
        </button>
        <button
          type="button"
          className="action"
          title="Weights under a hundredth go, and the rest makes up for them"
          onClick={() => void edit({ kind: "prune-weights", parts: [part.id], least: 0.01 })}
        >
          Drop under 1 %
        </button>
      </div>
      {brush && (
        <div className="flex flex-col gap-1 mt-1.5" data-brush={brush.stroke}>
          <div className="flex flex-wrap gap-1.5">
            {STROKES.map((s) => (
              <button
                key={s.key}
                type="button"
                className={`action ${brush.stroke === s.key ? "action-main" : ""}`}
                aria-pressed={brush.stroke === s.key}
                onClick={() => change({ stroke: s.key })}
              >
                {s.title}
              </button>
            ))}
          </div>
          <NumberField
            label="Reach"
            unit="m"
            min={0.002 * size}
            max={size}
            step={0.001 * size}
            decimals={3}
            value={brush.reach}
            onKeep={(reach) => change({ reach })}
          />
          <NumberField
            label="Strength"
            min={0}
            max={1}
            step={0.005}
            value={brush.strength}
            onKeep={(strength) => change({ strength })}
          />
          {(brush.stroke === "towards" || brush.stroke === "multiply") && (
            <NumberField
              label="Value"
              min={0}
              max={brush.stroke === "towards" ? 1 : 10}
              step={0.005}
              value={brush.value}
              onKeep={(value) => change({ value })}
            />
          )}
          <label className="flex gap-2">
            <input
              type="checkbox"
              className="accent-violet"
              checked={brush.mirrored}
              onChange={(e) => change({ mirrored: e.target.checked })}
            />
            on the other side as well
          </label>
          <button type="button" className="underline self-start" aria-expanded={locks} onClick={() => setLocks(!locks)}>
            {brush.locked.length > 0
              ? `${brush.locked.length} joints keep their weights`
              : "joints that keep their weights"}
          </button>
          {locks &&
            joints.map((id) => (
              <label key={id} className="flex gap-2">
                <input
                  type="checkbox"
                  className="accent-violet"
                  checked={brush.locked.includes(id)}
                  onChange={(e) =>
                    change({ locked: e.target.checked ? [...brush.locked, id] : brush.locked.filter((x) => x !== id) })
                  }
                />
                {name(id)}
              </label>
            ))}
          <p className="text-ink-soft">Drag over the part; with Alt a drag turns the view. Undo takes a stroke back.</p>
        </div>
      )}
    </Section>
  );
}
