import { useState } from "react";
import { edit } from "../server/session";
import { documentOf, useMyriapod } from "../state/store";
import { figure } from "../text/numbers";
import type { MeasureDeclaration } from "../wire/mechanism.gen";
import type { Control, Joint, Measure } from "../wire/rig.gen";
import { nameOf, Section } from "./parts";

const AXES = [
  ["x", [1, 0, 0]],
  ["y", [0, 1, 0]],
  ["z", [0, 0, 1]],
] as const;

/** MeasureTools offers the measures that can be taken of what is chosen. */
export function MeasureTools({ joints, controls }: { joints: Joint[]; controls: Control[] }) {
  const kinds = useMyriapod((s) => s.measures);
  const [axis, setAxis] = useState<(typeof AXES)[number][0]>("y");
  const chosen = [...joints, ...controls];
  const fits = (k: MeasureDeclaration) =>
    k.things === chosen.length && (k.joint || joints.length === 0) && (k.control || controls.length === 0);
  const open = kinds.filter(fits);
  if (open.length === 0) return null;
  return (
    <Section title="Measure">
      <div className="flex flex-wrap gap-2 items-center">
        {open.map((k) => (
          <span key={k.kind} className="flex gap-1">
            <button
              type="button"
              className="action"
              title={k.summary}
              onClick={() =>
                void edit({
                  kind: "add-measure",
                  measure: k.kind,
                  name: "", // the core finds one
                  of: chosen.map((t) => t.id),
                  axis: [...(AXES.find(([name]) => k.axis && name === axis)?.[1] ?? [0, 0, 0])] as [
                    number,
                    number,
                    number,
                  ],
                })
              }
            >
              {k.title}
            </button>
            {k.axis && (
              <select
                className="field"
                aria-label={`Axis of the ${k.kind}`}
                value={axis}
                onChange={(e) => setAxis(e.target.value as typeof axis)}
              >
                {AXES.map(([name]) => (
                  <option key={name}>{name}</option>
                ))}
              </select>
            )}
          </span>
        ))}
      </div>
    </Section>
  );
}

/** Measures lists the measures of the specimen with what they read now. */
export function Measures() {
  const d = documentOf();
  if (d.measures.length === 0) return null;
  return (
    <Section title="Measures">
      {d.measures.map((m, i) => (
        <MeasureRow key={m.id} measure={m} place={i} />
      ))}
    </Section>
  );
}

function MeasureRow({ measure, place }: { measure: Measure; place: number }) {
  const declared = useMyriapod((s) => s.measures.find((k) => k.kind === measure.kind));
  const value = useMyriapod((s) => s.frame?.measures[place]);
  const unit = declared?.unit ?? "";
  return (
    <p className="flex gap-2" title={`${declared?.title ?? measure.kind} of ${measure.of.map(nameOf).join(" and ")}`}>
      <span className="grow truncate">{measure.name}</span>
      <span className="figure whitespace-nowrap" data-measure={measure.name}>
        {value === undefined ? "" : `${figure(value)} ${unit}`}
      </span>
      <button
        type="button"
        className="text-ink-soft hover:text-ink"
        aria-label={`Remove the measure ${measure.name}`}
        onClick={() => void edit({ kind: "remove-measure", id: measure.id })}
      >
        ×
      </button>
    </p>
  );
}
