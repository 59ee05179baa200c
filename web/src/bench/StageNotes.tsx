import { setState, useMyriapod } from "../state/store";
import { figure, length } from "../text/numbers";
import { finishLaying } from "../work/building";

/** Drift tells how far the last thing built has moved the rest pose. */
export function Drift() {
  const drift = useMyriapod((s) => s.drift);
  if (!drift) return null;
  const turned = (drift.turns * 180) / Math.PI;
  const bad = drift.moved;
  return (
    <div
      className={`absolute right-4 top-2.5 text-right ${bad ? "text-vermilion-deep" : "text-teal-deep"}`}
      data-drift={drift.joints}
      data-turned-drift={drift.turns}
      data-vertex-drift={drift.vertices}
    >
      <span className="figure text-[13px]">
        drift: joints {length(drift.joints)} {figure(turned)}°, skin {length(drift.vertices)}
      </span>
      <br />
      <span className="text-ink-soft">{drift.text}</span>
    </div>
  );
}

/** LayingBar goes with the laying of a chain: how many joints, their names, and the way out. */
export function LayingBar() {
  const laying = useMyriapod((s) => s.laying);
  const joints = useMyriapod((s) => s.specimen?.document.joints);
  const moving = useMyriapod((s) => s.movingJoint);
  const snap = useMyriapod((s) => s.snap);
  if (!laying || moving) return null;
  const onto = joints?.find((j) => j.id === laying.onto)?.name;
  return (
    <form
      className="absolute top-3 right-3 max-w-[calc(100%-7.5rem)] bg-paper border border-ink rounded-md px-3 py-2 flex flex-wrap gap-x-3 gap-y-1 items-center shadow"
      onSubmit={(e) => {
        e.preventDefault();
        void finishLaying();
      }}
      aria-label={laying.kind ? "Lay a curve" : "Lay a chain"}
    >
      <span>
        {laying.places.length === 0
          ? laying.kind
            ? "Click place after place; Snap says what they lie on"
            : onto
              ? `Click on the body to go on from ${onto}`
              : "Click on the body, joint after joint"
          : `${laying.places.length} laid`}
      </span>
      <label>
        Snap{" "}
        <select className="field" value={snap} onChange={(e) => setState({ snap: e.target.value })}>
          {["volume", "vertex", "joint", "centre", "grid", "ground", "free"].map((s) => (
            <option key={s}>{s}</option>
          ))}
        </select>
      </label>
      <label>
        Names{" "}
        <input
          className="field w-24 figure"
          value={laying.pattern}
          placeholder="by place"
          onChange={(e) => setState({ laying: { ...laying, pattern: e.target.value } })}
        />
      </label>
      {!laying.kind && (
        <>
          <label>
            Divide into{" "}
            <input
              className="field w-16 figure"
              inputMode="numeric"
              placeholder="as laid"
              value={laying.count}
              onChange={(e) => setState({ laying: { ...laying, count: e.target.value } })}
            />
          </label>
          <label className="flex gap-1.5" title="What lies to one side is laid on the other as well, live">
            <input
              type="checkbox"
              className="accent-violet"
              checked={!!laying.mirrored}
              onChange={(e) =>
                setState({ mirrors: e.target.checked, laying: { ...laying, mirrored: e.target.checked } })
              }
            />
            mirrored
          </label>
        </>
      )}
      <button type="submit" className="action action-main" disabled={laying.places.length === 0}>
        Finish <span className="key">Enter</span>
      </button>
      <button type="button" className="action" onClick={() => setState({ laying: undefined })}>
        Leave
      </button>
    </form>
  );
}
