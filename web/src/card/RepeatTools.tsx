import { useState } from "react";
import { foresee } from "../server/asking";
import { edit } from "../server/session";
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

type Rule = Omit<Extract<Change, { kind: "add-repeat" }>, "kind" | "name" | "sources">;

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
  const [upright, setUpright] = useState(false);
  const [ground, setGround] = useState(false);
  const [draws, setDraws] = useState(false);
  const fixed = d.bindings.some((b) => b.joints.length === 1);
  const series = { rule: "series", like: stations, stand: upright ? "upright" : "", ground } as const;
  const mirrored: Rule = { rule: "mirror", point: [0, 0, 0], through: true, direction: [...AXES[mirror]] };
  const ringed = (): Rule => ({ rule: "ring", count: Number.parseInt(count, 10) || 0, direction: [...AXES[ring]] });
  const look = async (rule: Rule) => {
    const seen = await foresee({ kind: "add-repeat", name: "", sources, ...rule });
    const names = typeof seen === "object" ? seen.added : [];
    setThere(
      typeof seen === "string"
        ? seen
        : `${names.length} joints more: ${names.slice(0, 3).join(", ")}${names.length > 3 ? " …" : ""}`,
    );
  };
  const make = async (change: Rule) => {
    const made = await edit({ kind: "add-repeat", name: "", sources, draws, ...change }, "Repeating");
    const added = made?.document.repeats.at(-1);
    if (added) setState({ chosen: [added.id] });
  };
  if (tops.length === 0) return null;
  return (
    <Section title="Repeat, live">
      {fixed && (
        <label className="flex gap-1.5 py-0.5" title="Wheels, bolts, links: one part, drawn at every copy">
          <input
            type="checkbox"
            className="accent-violet"
            checked={draws}
            onChange={(e) => setDraws(e.target.checked)}
          />
          with the parts that are fixed to them
        </label>
      )}
      <div className="flex gap-2 items-center py-0.5">
        <button
          type="button"
          className="action"
          onPointerEnter={() => void look(mirrored)}
          onFocus={() => void look(mirrored)}
          onClick={() => void make(mirrored)}
        >
          Mirror
        </button>
        across <AxisField label="Axis to mirror across" value={mirror} onChange={setMirror} /> = 0
      </div>
      <form
        className="flex gap-2 items-center py-0.5"
        onSubmit={(e) => {
          e.preventDefault();
          void make(ringed());
        }}
      >
        <button
          type="submit"
          className="action"
          onPointerEnter={() => void look(ringed())}
          onFocus={() => void look(ringed())}
        >
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
            onFocus={() => void look(series)}
            onBlur={() => void look(series)}
            title={`For example ${chainOf(carrier.id)
              .slice(0, 2)
              .map((id) => d.joints.find((j) => j.id === id)?.name)
              .join(", ")} …; * is a wildcard`}
          />
        </form>
      )}
      {carrier && (
        <div className="flex gap-3">
          <label className="flex gap-1.5" title="Each turned about the vertical alone, however its joint is tilted">
            <input
              type="checkbox"
              className="accent-violet"
              checked={upright}
              onChange={(e) => setUpright(e.target.checked)}
            />
            series upright
          </label>
          <label className="flex gap-1.5" title="Each as low as the source stands">
            <input
              type="checkbox"
              className="accent-violet"
              checked={ground}
              onChange={(e) => setGround(e.target.checked)}
            />
            on the ground
          </label>
        </div>
      )}
      <p className="text-ink-soft min-h-5">{there}</p>
    </Section>
  );
}
