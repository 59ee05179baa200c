import { useState } from "react";
import { edit } from "../server/session";
import { documentOf, setState, useMyriapod } from "../state/store";
import type { Binding } from "../wire/rig.gen";
import { NumberField } from "./NumberField";
import { nameOf } from "./parts";
import { ReachFields } from "./ReachFields";

const STROKES = [
  { key: "more", title: "more" },
  { key: "less", title: "less" },
  { key: "towards", title: "to a value" },
  { key: "even", title: "even out" },
  { key: "firm", title: "firm up" },
  { key: "multiply", title: "multiply" },
] as const;

/** BrushField is what the brush does to the weights of the joint that is shown, and what it leaves alone. */
export function BrushField({ binding }: { binding: Binding }) {
  const brush = useMyriapod((s) => s.brush);
  const joint = useMyriapod((s) => s.weighedJoint);
  const [locks, setLocks] = useState(false);
  if (!brush) return null;
  const joints = binding.joints.filter((id) => documentOf().joints.some((j) => j.id === id));
  const change = (now: Partial<typeof brush>) => setState({ brush: { ...brush, ...now } });
  const others = joints.filter((id) => id !== joint);
  const free = others.filter((id) => !brush.locked.includes(id));
  const between = free.length === 1 && others.length > 1 ? free[0] : "";
  const { stroke, strength, value, locked } = brush;
  return (
    <div className="flex flex-col gap-1 mt-1.5" data-brush={stroke}>
      <label
        className="flex gap-2"
        title="Which way the skin keeps its girth: dual quaternions where it is shaded, a linear blend where it is not"
      >
        <input
          type="checkbox"
          className="accent-violet"
          checked={!!brush.dual}
          onChange={(e) => change({ dual: e.target.checked })}
        />
        paint where dual quaternions hold, not weights
      </label>
      <div className="flex flex-wrap gap-1.5">
        {STROKES.map((s) => (
          <button
            key={s.key}
            type="button"
            className={`action ${stroke === s.key ? "action-main" : ""}`}
            aria-pressed={stroke === s.key}
            onClick={() => change({ stroke: s.key })}
          >
            {s.title}
          </button>
        ))}
      </div>
      <ReachFields reach={brush.reach} strength={strength} onChange={change} />
      {(stroke === "towards" || stroke === "multiply") && (
        <NumberField
          label="Value"
          min={0}
          max={stroke === "towards" ? 1 : 10}
          step={0.005}
          value={value}
          onKeep={(now) => change({ value: now })}
        />
      )}
      {!brush.dual && (
        <label className="flex gap-2">
          <input
            type="checkbox"
            className="accent-violet"
            checked={brush.mirrored}
            onChange={(e) => change({ mirrored: e.target.checked })}
          />
          on the other side as well
        </label>
      )}
      <label className="flex gap-2" title="What lies behind is reached as well, straight through the volume">
        <input
          type="checkbox"
          className="accent-violet"
          checked={brush.through}
          onChange={(e) => change({ through: e.target.checked })}
        />
        through the body, not over the surface
      </label>
      {!brush.dual && others.length > 1 && (
        <label className="flex gap-2 items-center">
          Give and take
          <select
            aria-label="The joint that weight is taken from and given to"
            className="field grow min-w-0"
            value={between}
            onChange={(e) => change({ locked: e.target.value ? others.filter((id) => id !== e.target.value) : [] })}
          >
            <option value="">between all joints</option>
            {others.map((id) => (
              <option key={id} value={id}>
                with {nameOf(id)} alone
              </option>
            ))}
          </select>
        </label>
      )}
      {!brush.dual && (
        <button type="button" className="underline self-start" aria-expanded={locks} onClick={() => setLocks(!locks)}>
          {locked.length > 0 ? `${locked.length} joints keep their weights` : "joints that keep their weights"}
        </button>
      )}
      {locks &&
        !brush.dual &&
        joints.map((id) => (
          <label key={id} className="flex gap-2">
            <input
              type="checkbox"
              className="accent-violet"
              checked={locked.includes(id)}
              onChange={(e) =>
                change({ locked: e.target.checked ? [...locked, id] : locked.filter((other) => other !== id) })
              }
            />
            {nameOf(id)}
          </label>
        ))}
      {!brush.dual && (
        <button
          type="button"
          className="action self-start"
          title="What the brush does, over the whole part at once"
          disabled={!joint}
          onClick={() =>
            joint &&
            void edit({
              kind: "fill-weights",
              part: binding.part,
              joint,
              brush: { stroke, strength, value, reach: brush.reach },
              locked,
            })
          }
        >
          Fill the whole part
        </button>
      )}
      <p className="text-ink-soft">Drag over the part; with Alt a drag turns the view. Undo takes a stroke back.</p>
    </div>
  );
}
