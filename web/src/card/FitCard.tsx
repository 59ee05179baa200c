import { useEffect } from "react";
import { Box3, Vector3 } from "three";
import { edit } from "../server/session";
import { loadMesh } from "../stage/surfaces";
import { fitMatrix } from "../stage/view";
import { AS_IT_CAME, documentOf, type Fitting, setState, useMyriapod, type Vector } from "../state/store";
import { figure } from "../text/numbers";
import { NumberField } from "./NumberField";
import { Section } from "./parts";

const UNITS = {
  "in metres": 1,
  "in centimetres": 0.01,
  "in millimetres": 0.001,
  "in inches": 0.0254,
  "in feet": 0.3048,
};

/** SIDES are the sides that a model may face once it stands upright, in words. */
const SIDES = { z: "ahead (+Z)", "-z": "back (−Z)", x: "to the left (+X)", "-x": "to the right (−X)" } as const;

/** FitCard brings a model to its size, stand and place, shown beside a rod before it is done. */
export function FitCard({ fitting }: { fitting: Fitting }) {
  const d = documentOf();
  const id = useMyriapod((s) => s.specimen?.id);
  const change = (some: Partial<Fitting>) => setState((s) => ({ fitting: { ...(s.fitting ?? AS_IT_CAME), ...some } }));
  useEffect(() => {
    let gone = false;
    const box = new Box3();
    void Promise.all(d.parts.map((p) => loadMesh(id ?? "", p.mesh))).then((list) => {
      for (const g of list) if (g.boundingBox) box.union(g.boundingBox);
      if (gone || box.isEmpty()) return;
      const { min, max } = box;
      setState((s) => ({
        fitting: s.fitting && { ...s.fitting, box: { min: [min.x, min.y, min.z], max: [max.x, max.y, max.z] } },
      }));
    });
    return () => {
      gone = true;
    };
  }, [d.parts, id]);
  const size = new Vector3();
  if (fitting.box) {
    const { min, max } = fitting.box;
    new Box3(new Vector3(...min), new Vector3(...max)).applyMatrix4(fitMatrix(fitting)).getSize(size);
  }
  const { box: _, ...asked } = fitting;
  const same = JSON.stringify(asked) === JSON.stringify(AS_IT_CAME);
  return (
    <Section title="Size and stand">
      <p data-size={size.toArray().join(" ")}>
        <b className="figure">{figure(size.x)}</b> wide, <b className="figure">{figure(size.y)}</b> tall,{" "}
        <b className="figure">{figure(size.z)}</b> deep, in metres. The rod beside it is 1.8 m.
      </p>
      <label className="flex justify-between mt-1">
        It was made
        <select
          className="field"
          value={Object.entries(UNITS).find(([, v]) => v === fitting.scale)?.[0] ?? ""}
          onChange={(e) => change({ scale: UNITS[e.target.value as keyof typeof UNITS] ?? 1 })}
        >
          <option value="" disabled>
            to another scale
          </option>
          {Object.keys(UNITS).map((u) => (
            <option key={u}>{u}</option>
          ))}
        </select>
      </label>
      <NumberField
        label="Scale"
        unit="×"
        decimals={4}
        step={0.01}
        min={1e-6}
        max={1e6}
        value={fitting.scale}
        onTry={(v) => change({ scale: Math.max(1e-6, v) })}
        onKeep={(v) => change({ scale: v })}
      />
      <label className="flex justify-between mt-1">
        Its axis that is up
        <select className="field" value={fitting.up} onChange={(e) => change({ up: e.target.value as Fitting["up"] })}>
          {["y", "z", "x"].map((a) => (
            <option key={a} value={a}>
              {a.toUpperCase()}
            </option>
          ))}
        </select>
      </label>
      <label className="flex justify-between mt-1">
        It looks
        <select
          className="field"
          value={fitting.faces}
          onChange={(e) => change({ faces: e.target.value as Fitting["faces"] })}
        >
          {Object.entries(SIDES).map(([side, words]) => (
            <option key={side} value={side}>
              {words}
            </option>
          ))}
        </select>
      </label>
      <label className="flex gap-2 mt-1">
        <input type="checkbox" checked={fitting.ground} onChange={(e) => change({ ground: e.target.checked })} />
        Set it on the ground, its middle at the origin
      </label>
      {(["X", "Y", "Z"] as const).map((axis, i) => (
        <NumberField
          key={axis}
          label={`Move ${axis}`}
          unit="m"
          value={fitting.move[i] ?? 0}
          onTry={(v) => change({ move: fitting.move.with(i, v) as Vector })}
          onKeep={(v) => change({ move: fitting.move.with(i, v) as Vector })}
        />
      ))}
      <div className="flex gap-2 mt-2">
        <button
          type="button"
          className="action action-main"
          disabled={same}
          onClick={async () => {
            if (await edit({ kind: "fit-model", ...asked }, "Fitting the model")) setState({ fitting: undefined });
          }}
        >
          Fit the model
        </button>
        <button type="button" className="action" onClick={() => setState({ fitting: undefined })}>
          {same ? "It is right" : "Leave it"}
        </button>
      </div>
    </Section>
  );
}
