import { useState } from "react";
import { edit } from "../server/session";
import { documentOf, useMyriapod, useOrigins } from "../state/store";
import type { Set as ParameterSet } from "../wire/parameter.gen";
import type { Part } from "../wire/rig.gen";
import { nameFor } from "../work/building";
import { GroupTools } from "./GroupTools";
import { HangField } from "./HangField";
import { MorphTools } from "./MorphTools";
import { NumberField } from "./NumberField";
import { OptionFields, withDefaults } from "./OptionFields";
import { PlaceTools } from "./PlaceTools";
import { CardHead, CardLink, nameOf, Section } from "./parts";
import { ShapeTools } from "./ShapeTools";
import { WeightTools } from "./WeightTools";

/** PartCard is for one or several parts of the model. */
export function PartCard({ parts }: { parts: Part[] }) {
  const d = documentOf();
  const part = parts[0];
  const binding = useMyriapod((s) => s.binding);
  const [bind, setBind] = useState<ParameterSet>({});
  const step = useMyriapod((s) => s.step);
  const origins = useOrigins();
  const [alike, setAlike] = useState(false);
  const [keep, setKeep] = useState(true); // what was painted, when it is bound anew
  const [leaving, setLeaving] = useState(false);
  const [without, setWithout] = useState<string[]>([]); // joints that it is not bound to
  const kinds = useMyriapod((s) => s.kinds);
  if (!part) return null;
  const boxes = kinds.flatMap((kind) => {
    const asked = kind.roles.filter((r) => !r.made);
    return asked.length === 1 && asked[0]?.parts ? [{ kind, role: asked[0].name }] : [];
  });
  const ids = parts.map((p) => p.id);
  const bound = d.bindings.filter((b) => ids.includes(b.part));
  const chains = d.mechanisms.filter((m) => m.joints.length > 1 && !(m.id in origins));
  const bindTo = (joints: string[]) =>
    void edit(
      {
        kind: "bind",
        parts: ids,
        joints: joints.filter((id) => !without.includes(id)),
        alike,
        keep,
        ...withDefaults(binding, bind),
      },
      "Binding the skin",
    );
  return (
    <>
      {parts.length === 1 ? (
        <CardHead id={part.id} name={part.name}>
          <span className="text-ink-soft">Part, {part.vertices.toLocaleString("en")} vertices</span>
        </CardHead>
      ) : (
        <h2 className="font-serif text-[26px] border-b border-rule mb-1">{parts.length} parts</h2>
      )}
      <div className="flex flex-col gap-1.5 py-1">
        <label className="flex justify-between">
          Shown
          <select
            className="field"
            value={part.sight}
            onChange={async (e) => {
              for (const id of ids) await edit({ kind: "change-part", part: id, sight: e.target.value });
            }}
          >
            <option value="shown">shown</option>
            <option value="ghost">ghosted</option>
            <option value="hidden">hidden</option>
          </select>
        </label>
        <label className="flex justify-between">
          Colour
          <input
            type="color"
            key={part.colour}
            defaultValue={part.colour}
            className="w-16 h-5"
            onBlur={async (e) => {
              if (e.target.value !== part.colour)
                for (const id of ids) await edit({ kind: "change-part", part: id, colour: e.target.value });
            }}
          />
        </label>
        <label className="flex justify-between">
          Not pickable
          <input
            type="checkbox"
            checked={part.locked}
            className="accent-violet"
            onChange={async (e) => {
              for (const id of ids) await edit({ kind: "change-part", part: id, locked: e.target.checked });
            }}
          />
        </label>
      </div>
      {parts.length === 1 && <MorphTools part={part} />}
      {step !== "model" && boxes.length > 0 && (
        <div className="flex flex-wrap gap-2 mt-2">
          {boxes.map(({ kind, role }) => (
            <button
              key={kind.kind}
              type="button"
              className="action"
              title={kind.summary}
              onClick={() =>
                void edit({
                  kind: "add-mechanism",
                  mechanism: kind.kind,
                  name: nameFor(part.name, kind.kind),
                  roles: { [role]: ids },
                })
              }
            >
              {kind.title}
            </button>
          ))}
        </div>
      )}
      <GroupTools ids={ids} />
      {step === "model" && <ShapeTools parts={parts} />}
      {step === "model" && <PlaceTools parts={parts} />}
      {step === "skin" && parts.length === 1 && <WeightTools part={part} />}
      <Section title="Skin">
        {bound.length === 0 && <p>Not bound: it stays where it is when the joints move.</p>}
        {bound.map((b) => (
          <p key={b.id}>
            {b.joints.length === 1
              ? `fixed to ${nameOf(b.joints[0] ?? "")}`
              : `bound ${b.method === "along chain" ? `along a chain, blend ${b.blend},` : `by ${b.method}`} to ${b.joints.length} joints`}
          </p>
        ))}
        {bound.length > 0 && (
          <NumberField
            label="Dual quaternions"
            min={0}
            max={1}
            step={0.01}
            value={bound[0]?.dual ?? 0}
            onKeep={(dual) => void edit({ kind: "change-skin", parts: bound.map((b) => b.part), dual })}
          />
        )}
        {chains.length > 0 && <OptionFields declared={binding} values={bind} onChange={setBind} />}
        <label className="flex gap-2 mt-1" title="With leg_L1 to leg_L1_1 also leg_R4 to leg_R4_1, and so on">
          <input
            type="checkbox"
            checked={alike}
            className="accent-violet"
            onChange={(e) => setAlike(e.target.checked)}
          />
          and all parts that are named alike
        </label>
        {bound.some((b) => b.made && b.made !== b.weights) && (
          <label className="flex gap-2 mt-1" title="When it is bound anew, as far as the joints are the same">
            <input
              type="checkbox"
              checked={keep}
              className="accent-violet"
              onChange={(e) => setKeep(e.target.checked)}
            />
            keep what was painted
          </label>
        )}
        {chains.length > 0 && (
          <button type="button" className="underline" aria-expanded={leaving} onClick={() => setLeaving(!leaving)}>
            {without.length > 0 ? `${without.length} joints are left out` : "joints that are left out"}
          </button>
        )}
        {leaving &&
          [...new Set(chains.flatMap((m) => m.joints))].map((id) => (
            <label key={id} className="flex gap-2">
              <input
                type="checkbox"
                className="accent-violet"
                checked={without.includes(id)}
                onChange={(e) =>
                  setWithout(e.target.checked ? [...without, id] : without.filter((other) => other !== id))
                }
              />
              {nameOf(id)}
            </label>
          ))}
        <HangField
          label="Joint to fix to"
          placeholder="fix it to the joint"
          verb="Fix"
          carriers={d.joints}
          onHang={(joint) => void edit({ kind: "bind-rigid", parts: ids, joint, alike }, "Fixing")}
        />
        <div className="flex flex-wrap gap-2 mt-2">
          {chains.map((m) => (
            <button key={m.id} type="button" className="action" onClick={() => bindTo(m.joints)}>
              Bind to {m.name}
            </button>
          ))}
          {chains.length > 0 && (
            <button type="button" className="action" onClick={() => bindTo(d.joints.map((j) => j.id))}>
              Bind to all joints
            </button>
          )}
          {bound.length > 0 && (
            <button
              type="button"
              className="action"
              onClick={() => void edit({ kind: "unbind", parts: bound.map((b) => b.part) })}
            >
              Unbind
            </button>
          )}
        </div>
        {chains.map((m) => (
          <CardLink key={m.id} id={m.id} what="chain" />
        ))}
      </Section>
    </>
  );
}
