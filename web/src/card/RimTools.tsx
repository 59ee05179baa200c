import { useState } from "react";
import { edit } from "../server/session";
import { startPicking } from "../stage/picking";
import { setState, state, useMyriapod } from "../state/store";
import type { Part } from "../wire/rig.gen";
import { holdMorph } from "../work/motion";
import { takeInHand } from "./MorphTools";
import { NumberField } from "./NumberField";
import { Section } from "./parts";

/** RimTools shapes a morph target by picked vertices: held by the hand, or two rims that come together as lids do. */
export function RimTools({ part, vertices }: { part: Part; vertices: number[] }) {
  const rims = useMyriapod((s) => s.rims);
  const size = useMyriapod((s) => s.size);
  const [name, setName] = useState(part.morphs?.at(-1)?.name ?? "shut");
  const [share, setShare] = useState(0.7);
  const [reach, setReach] = useState(0.02 * size);
  const mine = rims.part === part.id ? rims : {};
  const leave = () => {
    startPicking();
    setState({ chosen: [part.id], rims: {} });
  };
  const close = async () => {
    const { one, other } = mine;
    if (!one || !other) return;
    if (!part.morphs?.some((m) => m.name === name) && !(await edit({ kind: "add-morph", part: part.id, name }))) return;
    if (!(await edit({ kind: "close-rims", part: part.id, morph: name, one, other, share, reach }))) return;
    leave();
    holdMorph(part.id, name, 1);
  };
  return (
    <Section title={`Morph targets of ${part.name}`}>
      <label className="flex gap-2 items-center">
        Morph target
        <input
          aria-label="Morph target that is shaped"
          className="field grow min-w-0 figure"
          list="morphs-of-part"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <datalist id="morphs-of-part">
          {part.morphs?.map((m) => (
            <option key={m.name} value={m.name} />
          ))}
        </datalist>
      </label>
      {part.morphs?.some((m) => m.name === name) && (
        <button
          type="button"
          className="action mt-1.5"
          onClick={() => {
            leave();
            takeInHand(part, name, { picked: vertices, reach: state().hand?.reach ?? 0.02 * size });
          }}
        >
          Hold these in the hand
        </button>
      )}
      <p className="mt-1.5">Rims that are to meet, as lids and lips do:</p>
      <div className="flex flex-wrap gap-1.5">
        <button
          type="button"
          className={`action ${mine.one ? "action-main" : ""}`}
          onClick={() => setState({ rims: { ...mine, part: part.id, one: vertices } })}
        >
          The one rim{mine.one ? ` (${mine.one.length})` : ""}
        </button>
        <button
          type="button"
          className={`action ${mine.other ? "action-main" : ""}`}
          onClick={() => setState({ rims: { ...mine, part: part.id, other: vertices } })}
        >
          The other rim{mine.other ? ` (${mine.other.length})` : ""}
        </button>
      </div>
      {mine.one && mine.other && (
        <>
          <NumberField label="Where they meet" min={0} max={1} step={0.01} value={share} onKeep={setShare} />
          <NumberField
            label="Goes along"
            unit="m"
            min={0}
            max={size}
            step={0.001 * size}
            decimals={3}
            value={reach}
            onKeep={setReach}
          />
          <button type="button" className="action action-main mt-1.5" onClick={() => void close()}>
            Close them until they meet
          </button>
        </>
      )}
    </Section>
  );
}
