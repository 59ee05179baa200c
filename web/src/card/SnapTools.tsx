import { setState, useMyriapod } from "../state/store";
import { NumberField } from "./NumberField";
import { Section } from "./parts";

const SNAPS = [
  { value: "volume", title: "the middle of the volume" },
  { value: "vertex", title: "vertices" },
  { value: "joint", title: "joints" },
  { value: "centre", title: "the middle of a part" },
  { value: "grid", title: "the grid" },
  { value: "ground", title: "the ground" },
  { value: "free", title: "nothing" },
];

/** SnapTools chooses what joints keep to while they are laid or moved. */
export function SnapTools() {
  const { snap, gridStep, lock, lockAt } = useMyriapod();
  return (
    <Section title="Joints keep to">
      <label className="flex justify-between gap-2">
        Snap
        <select className="field" value={snap} onChange={(e) => setState({ snap: e.target.value })}>
          {SNAPS.map((s) => (
            <option key={s.value} value={s.value}>
              {s.title}
            </option>
          ))}
        </select>
      </label>
      {snap === "grid" && (
        <NumberField
          label="Step"
          unit="m"
          value={gridStep}
          min={1e-4}
          max={100}
          onKeep={(gridStep) => setState({ gridStep })}
        />
      )}
      <label className="flex justify-between gap-2">
        Locked to the plane
        <select className="field" value={lock} onChange={(e) => setState({ lock: e.target.value as typeof lock })}>
          <option value="">none</option>
          <option value="x">X, seen from the side</option>
          <option value="y">Y, seen from the top</option>
          <option value="z">Z, seen from the front</option>
        </select>
      </label>
      {lock && (
        <NumberField
          label={`${lock.toUpperCase()} stays at`}
          unit="m"
          value={lockAt}
          onKeep={(lockAt) => setState({ lockAt })}
        />
      )}
    </Section>
  );
}
