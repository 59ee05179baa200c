import { useState } from "react";
import { edit } from "../server/session";
import { documentOf, setState, type Vector } from "../state/store";
import type { Part } from "../wire/rig.gen";
import { HangField } from "./HangField";
import { NumberField } from "./NumberField";
import { Section } from "./parts";

const AXES = ["X", "Y", "Z"] as const;
const NONE: Vector = [0, 0, 0];

/** PlaceTools moves, turns and scales parts that nothing moves yet: by numbers, by a click on the model, or onto a joint or control. */
export function PlaceTools({ parts }: { parts: Part[] }) {
  const d = documentOf();
  const [move, setMove] = useState<Vector>(NONE);
  const [turn, setTurn] = useState<Vector>(NONE);
  const [scale, setScale] = useState(1);
  const ids = parts.map((p) => p.id);
  if (d.bindings.some((b) => ids.includes(b.part))) return null;
  const place = (where: { onto?: string; at?: Vector }, by = { move: NONE, turn: NONE, scale: 1 }) =>
    edit(
      {
        kind: "place-parts",
        parts: ids,
        move: by.move,
        turn: by.turn.map((degrees) => (degrees * Math.PI) / 180) as Vector,
        scale: by.scale,
        ...where,
      },
      "Placing",
    );
  const set = (old: Vector, axis: number, value: number) => old.map((v, i) => (i === axis ? value : v)) as Vector;
  const still = scale === 1 && [...move, ...turn].every((v) => v === 0);
  return (
    <Section title="Place it by hand">
      {AXES.map((axis, i) => (
        <NumberField
          key={`move ${axis}`}
          label={`Move ${axis}`}
          unit="m"
          value={move[i] ?? 0}
          onKeep={(v) => setMove(set(move, i, v))}
        />
      ))}
      {AXES.map((axis, i) => (
        <NumberField
          key={`turn ${axis}`}
          label={`Turn about ${axis}`}
          unit="°"
          value={turn[i] ?? 0}
          onKeep={(v) => setTurn(set(turn, i, v))}
        />
      ))}
      <NumberField label="Scale" unit="×" min={1e-6} max={1e6} value={scale} onKeep={setScale} />
      <div className="flex flex-wrap gap-2 mt-1">
        <button
          type="button"
          className="action"
          disabled={still}
          title={still ? "Type how far first" : "About the middle of its box"}
          onClick={async () => {
            if (!(await place({}, { move, turn, scale }))) return;
            setMove(NONE);
            setTurn(NONE);
            setScale(1);
          }}
        >
          Move it so
        </button>
        <button
          type="button"
          className="action"
          onClick={() =>
            setState({ placing: { title: "Click where its middle is to come", take: (at) => void place({ at }) } })
          }
        >
          Put it where I click
        </button>
      </div>
      <HangField
        label="Joint or control to set it on"
        placeholder="set it on"
        verb="Set"
        carriers={[...d.joints, ...d.controls]}
        onHang={(onto) => void place({ onto })}
      />
    </Section>
  );
}
