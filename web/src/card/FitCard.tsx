import { useEffect, useState } from "react";
import { Box3 } from "three";
import { figure } from "../numbers";
import { edit } from "../session";
import { loadMesh } from "../stage/surfaces";
import { documentOf, type State, setState, useMyriapod } from "../store";
import { NumberField } from "./NumberField";
import { Section } from "./parts";

const UNITS = {
  "in metres": 1,
  "in centimetres": 0.01,
  "in millimetres": 0.001,
  "in inches": 0.0254,
  "in feet": 0.3048,
};

/** FitCard brings a model to the right size and stand, shown beside a rod before it is done. */
export function FitCard({ fitting }: { fitting: NonNullable<State["fitting"]> }) {
  const d = documentOf();
  const id = useMyriapod((s) => s.specimen?.id);
  const [size, setSize] = useState<[number, number, number]>([0, 0, 0]);
  useEffect(() => {
    let gone = false;
    const box = new Box3();
    void Promise.all(d.parts.map((p) => loadMesh(id ?? "", p.mesh))).then((list) => {
      for (const g of list) if (g.boundingBox) box.union(g.boundingBox);
      if (!gone && !box.isEmpty()) setSize([box.max.x - box.min.x, box.max.y - box.min.y, box.max.z - box.min.z]);
    });
    return () => {
      gone = true;
    };
  }, [d.parts, id]);
  const [x, y, z] = size;
  const turned = fitting.up === "z" ? [x, z, y] : fitting.up === "x" ? [y, x, z] : [x, y, z];
  const [wide = 0, tall = 0, deep = 0] = turned.map((v) => v * fitting.scale);
  const same = fitting.scale === 1 && fitting.up === "y";
  return (
    <Section title="Size and stand">
      <p data-size={turned.map((v) => v * fitting.scale).join(" ")}>
        <b className="figure">{figure(wide)}</b> wide, <b className="figure">{figure(tall)}</b> tall,{" "}
        <b className="figure">{figure(deep)}</b> deep, in metres. The rod beside it is 1.8 m.
      </p>
      <label className="flex justify-between mt-1">
        It was made
        <select
          className="field"
          value={Object.entries(UNITS).find(([, v]) => v === fitting.scale)?.[0] ?? ""}
          onChange={(e) =>
            setState({ fitting: { ...fitting, scale: UNITS[e.target.value as keyof typeof UNITS] ?? 1 } })
          }
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
        onTry={(v) => setState({ fitting: { ...fitting, scale: Math.max(1e-6, v) } })}
        onKeep={(v) => setState({ fitting: { ...fitting, scale: v } })}
      />
      <label className="flex justify-between mt-1">
        Its axis that is up
        <select
          className="field"
          value={fitting.up}
          onChange={(e) => setState({ fitting: { ...fitting, up: e.target.value as "x" | "y" | "z" } })}
        >
          {["y", "z", "x"].map((a) => (
            <option key={a} value={a}>
              {a.toUpperCase()}
            </option>
          ))}
        </select>
      </label>
      <div className="flex gap-2 mt-2">
        <button
          type="button"
          className="action action-main"
          disabled={same}
          onClick={async () => {
            if (await edit({ kind: "fit-model", scale: fitting.scale, up: fitting.up }, "Fitting the model"))
              setState({ fitting: undefined });
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
