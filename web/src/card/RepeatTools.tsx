import { useState } from "react";
import { edit, foresee } from "../server/session";
import { documentOf, setState } from "../state/store";
import type { Change } from "../wire/edits.gen";
import type { Joint } from "../wire/rig.gen";
import { chainOf } from "../work/building";
import { Section } from "./parts";

const AXES = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] } as const;
type Axis = keyof typeof AXES;

function AxisField({ label, value, onChange }: { label: string; value: Axis; onChange(axis: Axis): void }) {
  return (
    <select aria-label={label} className="field" value={value} onChange={(e) => onChange(e.target.value as Axis)}>
      {Object.keys(AXES).map((a) => (
        <option key={a} value={a}>
          {a.toUpperCase()}
        </option>
      ))}
    </select>
  );
}

/** RepeatTools makes live copies of the chosen joints: each with all below it and what stands on it. */
export function RepeatTools({ joints }: { joints: Joint[] }) {
  const d = documentOf();
  const chosen = new Set(joints.map((j) => j.id));
  const tops = joints.filter((j) => !chosen.has(j.parent ?? ""));
  const carrier = d.joints.find((j) => j.id === tops[0]?.parent);
  const [mirror, setMirror] = useState<Axis>("x");
  const [ring, setRing] = useState<Axis>("y");
  const [count, setCount] = useState("6");
  const [stations, setStations] = useState(() => carrier?.name.replace(/\d+(?!.*\d)/, "*") ?? "");
  const sources = tops.map((j) => j.id);
  const [there, setThere] = useState<string>();
  const series = { rule: "series", like: stations } as const;
  const look = async () => {
    const seen = await foresee({ kind: "add-repeat", name: "", sources, ...series });
    setThere(typeof seen === "string" ? seen : `${seen?.added.length ?? 0} joints more`);
  };
  type Repeating = Extract<Change, { kind: "add-repeat" }>;
  const make = async (change: Omit<Repeating, "kind" | "name" | "sources">) => {
    const made = await edit({ kind: "add-repeat", name: "", sources, ...change }, "Repeating");
    const added = made?.document.repeats.at(-1);
    if (added) setState({ chosen: [added.id] });
  };
  if (tops.length === 0) return null;
  return (
    <Section title="Repeat, live">
      <div className="flex gap-2 items-center py-0.5">
        <button
          type="button"
          className="action"
          onClick={() => void make({ rule: "mirror", point: [0, 0, 0], through: true, direction: [...AXES[mirror]] })}
        >
          Mirror
        </button>
        across <AxisField label="Axis to mirror across" value={mirror} onChange={setMirror} /> = 0
      </div>
      <form
        className="flex gap-2 items-center py-0.5"
        onSubmit={(e) => {
          e.preventDefault();
          void make({ rule: "ring", count: Number.parseInt(count, 10) || 0, direction: [...AXES[ring]] });
        }}
      >
        <button type="submit" className="action">
          Ring
        </button>
        of{" "}
        <input
          aria-label="Ring, how many in all"
          className="field w-9 figure"
          inputMode="numeric"
          value={count}
          onChange={(e) => setCount(e.target.value)}
        />
        about <AxisField label="Axis of the ring" value={ring} onChange={setRing} />
        {carrier && <span className="text-ink-soft">of {carrier.name}</span>}
      </form>
      {carrier && (
        <form
          className="flex gap-2 items-center py-0.5"
          onSubmit={(e) => {
            e.preventDefault();
            void make(series);
          }}
        >
          <button type="submit" className="action" disabled={!stations}>
            Series
          </button>
          at{" "}
          <input
            aria-label="Series, at the joints called"
            className="field w-24 figure"
            value={stations}
            onChange={(e) => {
              setStations(e.target.value);
              setThere(undefined);
            }}
            onFocus={() => void look()}
            onBlur={() => void look()}
            title={`For example ${chainOf(carrier.id)
              .slice(0, 2)
              .map((id) => d.joints.find((j) => j.id === id)?.name)
              .join(", ")} …; * is a wildcard`}
          />
          <span className="text-ink-soft">{there}</span>
        </form>
      )}
    </Section>
  );
}
