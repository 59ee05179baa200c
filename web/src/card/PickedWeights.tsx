import { useEffect, useState } from "react";
import { api } from "../server/api";
import { attempt, edit } from "../server/session";
import { documentOf, useMyriapod } from "../state/store";
import type { Part } from "../wire/rig.gen";
import type { Weighed } from "../wire/wire.gen";
import { NumberField } from "./NumberField";
import { nameOf, Section } from "./parts";

const LINES = 30;

/** PickedWeights is the numbers of what picked vertices go with, and sets them. */
export function PickedWeights({ part, vertices }: { part: Part; vertices: number[] }) {
  const d = documentOf();
  const specimen = useMyriapod((s) => s.specimen?.id ?? "");
  const shown = useMyriapod((s) => s.weighedJoint);
  const binding = d.bindings.find((b) => b.part === part.id);
  const [rows, setRows] = useState<Weighed[]>([]);
  const [joint, setJoint] = useState(shown && binding?.joints.includes(shown) ? shown : binding?.joints[0]);
  const picked = vertices.join();
  const weights = binding?.weights;
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is picked is named by its numbers, weights by their content
  useEffect(() => {
    let gone = false;
    if (!weights) return;
    void attempt(() => api.weightsOf(specimen, part.id, vertices)).then((found) => !gone && setRows(found ?? []));
    return () => {
      gone = true;
    };
  }, [specimen, part.id, picked, weights]);
  if (!binding || !joint) return null;
  const of = (row: Weighed, id: string) => row.values[row.joints.indexOf(id)] ?? 0;
  const average = rows.reduce((sum, row) => sum + of(row, joint), 0) / Math.max(1, rows.length);
  const set = (stroke: string, value: number, strength: number) =>
    void edit({ kind: "fill-weights", part: part.id, joint, vertices, brush: { stroke, reach: 1, strength, value } });
  return (
    <Section title={`Weights of ${part.name}`}>
      <label className="flex gap-2 items-center">
        Joint
        <select
          aria-label="Joint whose weights are set"
          className="field grow min-w-0"
          value={joint}
          onChange={(e) => setJoint(e.target.value)}
        >
          {binding.joints.map((id) => (
            <option key={id} value={id}>
              {nameOf(id)}
            </option>
          ))}
          {d.joints
            .filter((j) => !binding.joints.includes(j.id))
            .map((j) => (
              <option key={j.id} value={j.id}>
                {j.name} (none yet)
              </option>
            ))}
        </select>
      </label>
      <NumberField
        label="All of them, to"
        min={0}
        max={1}
        step={0.005}
        value={average}
        onKeep={(value) => set("towards", value, 1)}
      />
      <div className="flex gap-1.5 my-1">
        <button type="button" className="action" onClick={() => set("even", 0, 1)}>
          Even out
        </button>
        <button type="button" className="action" onClick={() => set("firm", 0, 1)}>
          Firm up
        </button>
      </div>
      <table className="w-full figure" data-weights-of={rows.length}>
        <tbody>
          {rows.slice(0, LINES).map((row) => (
            <tr key={row.vertex} className="border-t border-rule">
              <td className="pr-2 align-top">{row.vertex}</td>
              <td>{row.joints.map((id, i) => `${nameOf(id)} ${(row.values[i] ?? 0).toFixed(3)}`).join(", ")}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {vertices.length > LINES && (
        <p className="text-ink-soft">{`The first ${LINES} of ${vertices.length.toLocaleString("en")}.`}</p>
      )}
    </Section>
  );
}
