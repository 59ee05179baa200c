import { useState } from "react";
import { chainOf, startLaying } from "../actions";
import { figure } from "../numbers";
import { edit } from "../session";
import { documentOf, setState, useMyriapod } from "../store";
import type { Set as ParameterSet } from "../wire/parameter.gen";
import type { Joint } from "../wire/rig.gen";
import { NumberField } from "./NumberField";
import { OptionFields, withDefaults } from "./OptionFields";
import { CardHead, CardLink, nameOf, Section } from "./parts";

/** JointCard is for one joint: its place, what moves it and what it carries, and what can be built from it. */
export function JointCard({ joint }: { joint: Joint }) {
  const [below, setBelow] = useState(true);
  const d = documentOf();
  const chain = chainOf(joint.id);
  const mechanisms = d.mechanisms.filter((m) => m.joints.includes(joint.id));
  const parts = d.bindings.filter((b) => b.joints.includes(joint.id));
  return (
    <>
      <CardHead id={joint.id} name={joint.name}>
        <span className="text-ink-soft">
          Joint{chain.length > 1 && ` ${chain.indexOf(joint.id) + 1} of a chain of ${chain.length}`}
        </span>
      </CardHead>
      <Section title="At rest">
        {(["X", "Y", "Z"] as const).map((axis, k) => (
          <NumberField
            key={axis}
            label={axis}
            unit="m"
            step={0.002}
            value={joint.position[k] ?? 0}
            onKeep={(v) =>
              void edit({
                kind: "move-joint",
                joint: joint.id,
                position: joint.position.map((p, i) => (i === k ? v : p)),
                below,
              })
            }
          />
        ))}
        <label className="flex gap-2 mt-1">
          <input
            type="checkbox"
            checked={below}
            onChange={(e) => setBelow(e.target.checked)}
            className="accent-violet"
          />{" "}
          with the joints below it
        </label>
      </Section>
      <Section title="Trace: what moves it, and what it moves">
        {joint.parent && <CardLink id={joint.parent} what="hangs on" />}
        {mechanisms.map((m) => (
          <CardLink key={m.id} id={m.id} what="is placed by" />
        ))}
        {mechanisms
          .flatMap((m) => m.controls)
          .map((c) => (
            <CardLink key={c} id={c} what="answers to" />
          ))}
        {parts.map((b) => (
          <CardLink key={b.id} id={b.part} what="carries skin of" />
        ))}
      </Section>
      <div className="flex flex-wrap gap-2 mt-3">
        {chain.length > 1 && (
          <button type="button" className="action action-main" onClick={() => setState({ chosen: chain })}>
            Choose the chain
          </button>
        )}
        <button type="button" className="action" onClick={startLaying}>
          Extend <span className="key">J</span>
        </button>
        <button
          type="button"
          className="action"
          onClick={() => void edit({ kind: "delete-joints", joints: [joint.id] })}
        >
          Delete
        </button>
      </div>
    </>
  );
}

/** ChainCard is for several joints: naming, dividing, building a mechanism on them, binding the skin to them. */
export function ChainCard({ joints }: { joints: Joint[] }) {
  const d = documentOf();
  const kinds = useMyriapod((s) => s.kinds).filter((k) => k.stand === "chain");
  const [pattern, setPattern] = useState(
    () => joints[0]?.name.replace(/\d+$/, (digits) => "#".repeat(digits.length)) ?? "joint_##",
  );
  const [count, setCount] = useState(joints.length);
  const [name, setName] = useState(() => joints[0]?.name.replace(/[_\-.\s]*\d+$/, "") || "chain");
  const [options, setOptions] = useState<ParameterSet>({});
  const binding = useMyriapod((s) => s.binding);
  const [bind, setBind] = useState<ParameterSet>({});
  const ids = joints.map((j) => j.id);
  const length = joints
    .slice(1)
    .reduce((sum, j, i) => sum + Math.hypot(...j.position.map((p, k) => p - (joints[i]?.position[k] ?? 0))), 0);
  const owner = d.mechanisms.find((m) => m.joints.some((j) => ids.includes(j)));
  return (
    <>
      <h2 className="font-serif text-[26px]">{joints.length} joints</h2>
      <p className="text-ink-soft border-b border-rule pb-1.5">
        {joints[0]?.name} to {joints.at(-1)?.name}, {figure(length)} m
      </p>
      <Section title="Build on it">
        {owner ? (
          <CardLink id={owner.id} what="is placed by" />
        ) : (
          kinds.map((kind) => (
            <form
              key={kind.kind}
              className="flex flex-col gap-1.5"
              onSubmit={async (e) => {
                e.preventDefault();
                const made = await edit(
                  {
                    kind: "add-mechanism",
                    mechanism: kind.kind,
                    name,
                    joints: ids,
                    options: withDefaults(kind.options, options),
                  },
                  `Building ${name}`,
                );
                const added = made?.document.mechanisms.at(-1);
                if (added) setState({ chosen: [added.id], step: "mechanisms" });
              }}
            >
              <label className="flex justify-between">
                Name <input className="field w-32 figure" value={name} onChange={(e) => setName(e.target.value)} />
              </label>
              <OptionFields declared={kind.options} values={options} onChange={setOptions} />
              <button type="submit" className="action action-main self-start" title={kind.summary}>
                Build {kind.title.toLowerCase()}
              </button>
            </form>
          ))
        )}
      </Section>
      <Section title="Divide evenly">
        <form
          className="flex gap-2 items-center"
          onSubmit={async (e) => {
            e.preventDefault();
            const before = new Set(d.joints.map((j) => j.id));
            const made = await edit({ kind: "divide-chain", joints: ids, count });
            if (made)
              setState({
                chosen: made.document.joints.filter((j) => ids.includes(j.id) || !before.has(j.id)).map((j) => j.id),
              });
          }}
        >
          <label className="grow flex gap-2">
            into{" "}
            <input
              className="field w-14 figure"
              inputMode="numeric"
              value={count || ""}
              onChange={(e) => setCount(Number.parseInt(e.target.value, 10) || 0)}
            />{" "}
            joints
          </label>
          <button type="submit" className="action">
            Divide
          </button>
        </form>
      </Section>
      <Section title="Name by pattern">
        <form
          className="flex gap-2 items-center"
          onSubmit={(e) => {
            e.preventDefault();
            void edit({ kind: "name-joints", joints: ids, pattern });
          }}
        >
          <input
            aria-label="Pattern; # is the counter"
            className="field grow figure"
            value={pattern}
            onChange={(e) => setPattern(e.target.value)}
          />
          <button type="submit" className="action">
            Name
          </button>
        </form>
        <p className="text-ink-soft"># is the counter: {pattern.replace(/#+/, (m) => "1".padStart(m.length, "0"))} …</p>
      </Section>
      <Section title="Bind the skin">
        <OptionFields declared={binding} values={bind} onChange={setBind} />
        <button
          type="button"
          className="action mt-1.5"
          disabled={d.parts.length === 0}
          onClick={() =>
            void edit(
              { kind: "bind", parts: d.parts.map((p) => p.id), joints: ids, ...withDefaults(binding, bind) },
              "Binding the skin",
            )
          }
        >
          Bind all {d.parts.length} parts
        </button>
      </Section>
      <div className="mt-3">
        <button
          type="button"
          className="action"
          onClick={() => void edit({ kind: "delete-joints", joints: ids })}
          title={owner ? `${nameOf(owner.id)} moves them` : undefined}
        >
          Delete
        </button>
      </div>
    </>
  );
}
