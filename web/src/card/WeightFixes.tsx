import { useState } from "react";
import { api } from "../server/api";
import { attempt, edit } from "../server/session";
import { documentOf, setState, useMyriapod } from "../state/store";
import type { Part } from "../wire/rig.gen";
import type { OddWeights } from "../wire/wire.gen";
import { HangField } from "./HangField";

const ODD = [
  { key: "islands", title: "go with a joint apart from the rest of it" },
  { key: "steps", title: "step against a neighbour" },
  { key: "faint", title: "have a weight under 1 %" },
  { key: "many", title: "go with more than 3 joints" },
] as const;

const SIDES = [
  {
    from: "L",
    title: "Left to right",
    help: "The right side takes the weights of the left, for the joints of its own side",
  },
  {
    from: "R",
    title: "Right to left",
    help: "The left side takes the weights of the right, for the joints of its own side",
  },
] as const;

/** WeightFixes tidies the weights of a part: sides, small ones, how many, odd ones, copies, and tables. */
export function WeightFixes({ part }: { part: Part }) {
  const d = documentOf();
  const specimen = useMyriapod((s) => s.specimen?.id ?? "");
  const [odd, setOdd] = useState<{ of: string; found: OddWeights }>();
  const [order, setOrder] = useState(false);
  const weights = d.bindings.find((b) => b.part === part.id)?.weights ?? "";
  const known = odd?.of === weights ? odd.found : undefined;
  const find = async () => {
    const found = await attempt(() => api.oddWeights(specimen, part.id, 3));
    if (found) setOdd({ of: weights, found });
  };
  const load = async (file?: File) => {
    if (file) await edit({ kind: "load-weights", part: part.id, table: await file.text() }, "Reading weights");
  };
  return (
    <div className="flex flex-wrap gap-1.5 mt-1.5">
      {SIDES.map(({ from, title, help }) => (
        <button
          key={from}
          type="button"
          className="action"
          title={help}
          onClick={() => void edit({ kind: "mirror-weights", part: part.id, from })}
        >
          {title}
        </button>
      ))}
      <button
        type="button"
        className="action"
        title="Weights under a hundredth go, and the rest makes up for them"
        onClick={() => void edit({ kind: "prune-weights", parts: [part.id], least: 0.01 })}
      >
        Drop under 1 %
      </button>
      <select
        aria-label="Limit to so many joints"
        className="field"
        value=""
        onChange={(e) => void edit({ kind: "limit-weights", parts: [part.id], most: Number(e.target.value) })}
      >
        <option value="">limit to …</option>
        {[1, 2, 3].map((n) => (
          <option key={n} value={n}>
            {n} {n === 1 ? "joint" : "joints"} a vertex
          </option>
        ))}
      </select>
      <button type="button" className="action" onClick={() => void find()}>
        Find odd weights
      </button>
      {known && (
        <div className="w-full" data-odd={ODD.map((o) => known[o.key].length).join(" ")}>
          {ODD.every((o) => known[o.key].length === 0) && <p>Nothing about them is odd.</p>}
          {ODD.filter((o) => known[o.key].length > 0).map((o) => (
            <button
              key={o.key}
              type="button"
              className="underline text-left block"
              title="Show them on the stage"
              onClick={() => setState({ shaded: { part: part.id, vertices: known[o.key] } })}
            >
              {known[o.key].length.toLocaleString("en")} vertices {o.title}
            </button>
          ))}
        </div>
      )}
      <div className="w-full">
        <HangField
          label="Part that these weights are copied to"
          placeholder="copy these weights to the part"
          verb="Copy"
          carriers={d.parts.filter((p) => p.id !== part.id)}
          onHang={(to) =>
            void edit({ kind: "copy-weights", from: part.id, to: [to], byOrder: order }, "Copying weights")
          }
        />
        <label className="flex gap-2" title="In place of the nearest place of the surface">
          <input
            type="checkbox"
            className="accent-violet"
            checked={order}
            onChange={(e) => setOrder(e.target.checked)}
          />
          vertex by vertex
        </label>
      </div>
      <button
        type="button"
        className="action"
        title="To the parts that are named alike, with the joints that are"
        onClick={() => void edit({ kind: "copy-weights", from: part.id, to: [], alike: true }, "Copying weights")}
      >
        Copy to those named alike
      </button>
      <a className="action" href={`/api/specimens/${specimen}/parts/${part.id}/weights.csv`} download>
        Save as CSV
      </a>
      <label className="action cursor-pointer">
        Load CSV
        <input
          type="file"
          accept=".csv,text/csv"
          className="sr-only"
          aria-label="Table of weights"
          onChange={(e) => {
            void load(e.target.files?.[0]);
            e.target.value = "";
          }}
        />
      </label>
    </div>
  );
}
