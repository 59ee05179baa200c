import { useState } from "react";
import { edit } from "../server/session";
import { startPicking } from "../stage/picking";
import { documentOf, type Hand, setState, state, useMyriapod } from "../state/store";
import type { Part } from "../wire/rig.gen";
import { holdMorph } from "../work/motion";
import { isDriven } from "../work/values";
import { Drivers } from "./Drivers";
import { NumberField } from "./NumberField";
import { Section } from "./parts";
import { ReachFields } from "./ReachFields";

const ACTS = [
  { key: "move", title: "move", help: "What it holds goes with the pointer." },
  { key: "turn", title: "turn", help: "Drag sideways to turn what it holds." },
  { key: "scale", title: "scale", help: "Drag to the right for larger, to the left for smaller." },
  { key: "slide", title: "slide", help: "Along the surface, which keeps its form." },
  { key: "push", title: "push out", help: "Out along the normals, wherever it goes." },
  { key: "pull", title: "press in", help: "In along the normals, wherever it goes." },
  { key: "smooth", title: "smooth", help: "Evens the form out." },
  { key: "restore", title: "take back", help: "Back to the form without this morph target." },
] as const;

const again = ["push", "pull", "smooth", "restore"];

/** free is a name that no morph target of the part has yet. */
function free(part: Part, name: string): string {
  const taken = new Set(part.morphs?.map((m) => m.name));
  let made = name;
  for (let i = 2; taken.has(made); i++) made = `${name}_${i}`;
  return made;
}

/** takeInHand has the hand shape a morph target, which is shown whole. */
export function takeInHand(part: Part, morph: string, more: Partial<Hand> = {}) {
  const { hand, size } = state();
  const before = hand ?? { act: "move", reach: 0.04 * size, strength: 0.5, mirrored: false };
  setState({ hand: { ...before, picked: undefined, ...more, part: part.id, morph }, brush: undefined });
  if (!isDriven(documentOf(), part.id, morph)) holdMorph(part.id, morph, 1);
}

/** MorphTools is the morph targets of a part: tried, driven, made of each other, and shaped by hand. */
export function MorphTools({ part }: { part: Part }) {
  const d = documentOf();
  const step = useMyriapod((s) => s.step);
  const held = useMyriapod((s) => s.heldMorphs[part.id]);
  const hand = useMyriapod((s) => s.hand);
  const [driving, setDriving] = useState<string>(); // the morph target whose drivers are open
  const [open, setOpen] = useState<string>(); // whose tools are
  const [name, setName] = useState("");
  const morphs = part.morphs ?? [];
  const shapes = step === "skin";
  if (morphs.length === 0 && !shapes) return null;
  const wanted = free(part, name.trim() || "shape");
  const add = async (more: { second?: string; corrects?: string[] } = {}) => {
    const made = await edit({ kind: "add-morph", part: part.id, name: wanted, ...more });
    const now = made?.document.parts.find((p) => p.id === part.id);
    setName("");
    if (now && !more.second) takeInHand(now, wanted);
  };
  const seconds = d.parts.filter((p) => p.id !== part.id);
  return (
    <Section title="Morph targets">
      {morphs.map((m) => (
        <div key={m.name} data-morph={m.name}>
          <div className="flex items-center gap-1">
            <div className="grow">
              <NumberField
                label={m.name}
                value={held?.[m.name] ?? m.value}
                step={0.01}
                min={-100}
                max={100}
                onTry={(v) => holdMorph(part.id, m.name, v)}
                onKeep={(v) => holdMorph(part.id, m.name, v)}
              />
            </div>
            <button
              type="button"
              aria-label={`Drive ${m.name}`}
              aria-pressed={isDriven(d, part.id, m.name)}
              className={`w-8 rounded-sm ${isDriven(d, part.id, m.name) ? "bg-locked text-plate" : "text-ink-soft hover:text-ink hover:underline"}`}
              onClick={() => setDriving(driving === m.name ? undefined : m.name)}
            >
              drive
            </button>
            {shapes && (
              <button
                type="button"
                aria-label={`Shape ${m.name}`}
                aria-pressed={hand?.morph === m.name}
                className={`px-1 rounded-sm ${hand?.morph === m.name ? "bg-violet text-plate" : "text-ink-soft hover:text-ink hover:underline"}`}
                onClick={() => (hand?.morph === m.name ? setState({ hand: undefined }) : takeInHand(part, m.name))}
              >
                shape
              </button>
            )}
            {shapes && (
              <button
                type="button"
                aria-label={`More of ${m.name}`}
                aria-expanded={open === m.name}
                className="px-1 text-ink-soft hover:text-ink"
                onClick={() => setOpen(open === m.name ? undefined : m.name)}
              >
                …
              </button>
            )}
          </div>
          {driving === m.name && <Drivers of={{ of: part.id, key: m.name }} unit="" />}
          {open === m.name && <MorphEdits part={part} morph={m.name} onDone={() => setOpen(undefined)} />}
          {hand?.morph === m.name && hand.part === part.id && <HandField hand={hand} />}
        </div>
      ))}
      {shapes && (
        <form
          className="flex flex-wrap gap-1.5 mt-1.5 items-center"
          onSubmit={(e) => {
            e.preventDefault();
            void add();
          }}
        >
          <input
            aria-label="Name of the new morph target"
            className="field grow min-w-0 w-24 figure"
            placeholder={free(part, "shape")}
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
          <button type="submit" className="action">
            Add a morph target
          </button>
          {seconds.length > 0 && (
            <select
              aria-label="Second model that it is taken from"
              className="field w-full"
              value=""
              onChange={(e) => void add({ second: e.target.value })}
            >
              <option value="">add one from a second model of this part …</option>
              {seconds.map((p) => (
                <option key={p.id} value={p.id}>
                  {p.name}, {p.vertices.toLocaleString("en")} vertices
                </option>
              ))}
            </select>
          )}
        </form>
      )}
      {!shapes && <p className="text-ink-soft">Tried on the stage; a clip that came with them plays them.</p>}
    </Section>
  );
}

/** MorphEdits is what can be made of a morph target. */
function MorphEdits({ part, morph, onDone }: { part: Part; morph: string; onDone(): void }) {
  const size = useMyriapod((s) => s.size);
  const [name, setName] = useState(morph);
  const others = (part.morphs ?? []).filter((m) => m.name !== morph);
  const done = async (change: Parameters<typeof edit>[0]) => {
    if (await edit(change)) onDone();
  };
  return (
    <div className="flex flex-wrap gap-1.5 pl-3 pb-1.5 border-l border-rule">
      <form
        className="flex gap-1.5 w-full"
        onSubmit={(e) => {
          e.preventDefault();
          void done({ kind: "rename-morph", part: part.id, morph, name });
        }}
      >
        <input
          aria-label={`New name of ${morph}`}
          className="field grow min-w-0 figure"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <button type="submit" className="action" disabled={name === morph}>
          Rename
        </button>
      </form>
      <button
        type="button"
        className="action"
        title="The same on the other side, as a morph target of its own"
        onClick={() => void done({ kind: "mirror-morph", part: part.id, morph })}
      >
        Mirror
      </button>
      <button
        type="button"
        className="action"
        title="Two that are it together, and hand over to each other in the middle"
        onClick={() => void done({ kind: "split-morph", part: part.id, morph, blend: 0.03 * size })}
      >
        Split left and right
      </button>
      <button
        type="button"
        className="action"
        onClick={() => void done({ kind: "remove-morph", part: part.id, morph })}
      >
        Remove
      </button>
      {others.length > 0 && (
        <select
          aria-label={`Corrective of ${morph} with`}
          className="field w-full"
          value=""
          onChange={async (e) => {
            const other = e.target.value;
            const corrective = free(part, `${morph}_${other}`);
            const made = await edit({ kind: "add-morph", part: part.id, name: corrective, corrects: [morph, other] });
            const now = made?.document.parts.find((p) => p.id === part.id);
            if (!now) return;
            holdMorph(part.id, morph, 1);
            holdMorph(part.id, other, 1);
            takeInHand(now, corrective);
            onDone();
          }}
        >
          <option value="">add a corrective of both this and …</option>
          {others.map((m) => (
            <option key={m.name}>{m.name}</option>
          ))}
        </select>
      )}
    </div>
  );
}

/** HandField is what the hand does, and how far it reaches. */
function HandField({ hand }: { hand: Hand }) {
  const change = (now: Partial<Hand>) => setState({ hand: { ...hand, ...now } });
  return (
    <div className="flex flex-col gap-1 mt-1 mb-1.5" data-hand={hand.act}>
      <div className="flex flex-wrap gap-1.5">
        {ACTS.map((a) => (
          <button
            key={a.key}
            type="button"
            title={a.help}
            className={`action ${hand.act === a.key ? "action-main" : ""}`}
            aria-pressed={hand.act === a.key}
            onClick={() => change({ act: a.key })}
          >
            {a.title}
          </button>
        ))}
      </div>
      <ReachFields
        reach={hand.reach}
        strength={again.includes(hand.act) ? hand.strength : undefined}
        onChange={change}
      />
      <label className="flex gap-2">
        <input
          type="checkbox"
          className="accent-violet"
          checked={hand.mirrored}
          onChange={(e) => change({ mirrored: e.target.checked })}
        />
        on the other side as well
      </label>
      {hand.picked ? (
        <p>
          It holds the {hand.picked.length} vertices that were picked.{" "}
          <button type="button" className="underline" onClick={() => change({ picked: undefined })}>
            What is under the pointer
          </button>
        </p>
      ) : (
        <button
          type="button"
          className="underline self-start text-left"
          onClick={() => startPicking("vertices", hand.part)}
        >
          pick the vertices that it holds, or rims to close
        </button>
      )}
      <p className="text-ink-soft">
        {ACTS.find((a) => a.key === hand.act)?.help} Drag over the part, posed as you like; with Alt a drag turns the
        view.
      </p>
    </div>
  );
}
