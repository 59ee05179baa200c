import { useState } from "react";
import { edit } from "../server/session";
import { documentOf, setState, useMyriapod } from "../state/store";
import { figure } from "../text/numbers";
import type { Set as ParameterSet } from "../wire/parameter.gen";
import type { Joint } from "../wire/rig.gen";
import { chainOf, startLaying } from "../work/building";
import { AddControl } from "./AddControl";
import { BuildTools } from "./BuildTools";
import { CopyNote } from "./CopyNote";
import { GroupTools } from "./GroupTools";
import { HangField } from "./HangField";
import { NameTools } from "./NameTools";
import { NumberField } from "./NumberField";
import { OptionFields, withDefaults } from "./OptionFields";
import { OrientTools } from "./OrientTools";
import { CardHead, CardLink, nameOf, Section } from "./parts";
import { RepeatTools } from "./RepeatTools";
import { Trace } from "./Trace";

/** HangTools hangs joints on another joint: in place, or moved to its tip. */
function HangTools({ joints }: { joints: Joint[] }) {
  const d = documentOf();
  const [connected, setConnected] = useState(false);
  const ids = joints.map((j) => j.id);
  return (
    <Section title="Hang elsewhere">
      <HangField
        label="Joint to hang on"
        placeholder="on the joint called"
        carriers={d.joints.filter((j) => !ids.includes(j.id))}
        onHang={(parent) => void edit({ kind: "reparent", joints: ids, parent, connected })}
      />
      <div className="flex justify-between items-center">
        <label className="flex gap-2">
          <input
            type="checkbox"
            checked={connected}
            onChange={(e) => setConnected(e.target.checked)}
            className="accent-violet"
          />
          moved to its tip
        </label>
        {joints.some((j) => j.parent) && (
          <button
            type="button"
            className="underline"
            onClick={() => void edit({ kind: "reparent", joints: ids, parent: "" })}
          >
            detach
          </button>
        )}
      </div>
    </Section>
  );
}

/** JointCard is for one joint: its place, what moves it and what it carries, and what can be built from it. */
export function JointCard({ joint }: { joint: Joint }) {
  const [below, setBelow] = useState(true);
  const step = useMyriapod((s) => s.step);
  const d = documentOf();
  const chain = chainOf(joint.id);
  const parts = d.bindings.filter((b) => b.joints.includes(joint.id));
  const children = d.joints.filter((j) => j.parent === joint.id);
  return (
    <>
      <CardHead id={joint.id} name={joint.name}>
        <span className="text-ink-soft">
          Joint{chain.length > 1 && ` ${chain.indexOf(joint.id) + 1} of a chain of ${chain.length}`}
          {joint.label && ` · “${joint.label}”`}
        </span>
      </CardHead>
      <CopyNote id={joint.id} />
      <div className="flex flex-wrap gap-2 my-2">
        {chain.length > 1 && (
          <button type="button" className="action action-main" onClick={() => setState({ chosen: chain })}>
            Choose the chain
          </button>
        )}
        <button type="button" className="action" onClick={startLaying}>
          Extend <span className="key">J</span>
        </button>
        {children.length > 0 && (
          <button
            type="button"
            className="action"
            onClick={() => {
              const all = [joint.id];
              for (let i = 0; i < all.length; i++)
                all.push(...d.joints.filter((j) => j.parent === all[i]).map((j) => j.id));
              setState({ chosen: all });
            }}
          >
            Choose with all below
          </button>
        )}
      </div>
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
        <Trace joint={joint.id} />
        {parts.map((b) => (
          <CardLink key={b.id} id={b.part} what="carries skin of" />
        ))}
        {children.slice(0, 12).map((c) => (
          <CardLink key={c.id} id={c.id} what="carries" />
        ))}
      </Section>
      {step === "mechanisms" && <BuildTools on={[joint]} />}
      {step !== "motion" && <AddControl at={[joint]} />}
      <GroupTools ids={[joint.id]} />
      {step !== "motion" && <RepeatTools joints={[joint]} />}
      {step === "skeleton" && (
        <>
          <OrientTools joints={[joint]} />
          <HangTools joints={[joint]} />
          <NameTools ids={[joint.id]} first={joint.name} />
        </>
      )}
      <div className="flex flex-wrap gap-2 mt-3">
        {joint.parent && (
          <button
            type="button"
            className="action"
            onClick={() => void edit({ kind: "insert-joint", before: joint.id })}
            title="A joint half way to its parent"
          >
            Insert before
          </button>
        )}
        {joint.parent && (
          <button
            type="button"
            className="action"
            onClick={() => void edit({ kind: "split-off", joint: joint.id })}
            title="Cut the chain here; a joint stays behind to end it"
          >
            Split off
          </button>
        )}
        <button
          type="button"
          className="action"
          title="What hangs on it hangs on its parent, in place"
          onClick={() => void edit({ kind: "delete-joints", joints: [joint.id] })}
        >
          Dissolve
        </button>
        {children.length > 0 && (
          <button
            type="button"
            className="action"
            onClick={() => void edit({ kind: "delete-joints", joints: [joint.id], below: true })}
          >
            Delete with all below
          </button>
        )}
      </div>
    </>
  );
}

/** ChainCard is for several joints: naming, dividing, building a mechanism on them, binding the skin to them. */
export function ChainCard({ joints }: { joints: Joint[] }) {
  const d = documentOf();
  const step = useMyriapod((s) => s.step);
  const [count, setCount] = useState(joints.length);
  const binding = useMyriapod((s) => s.binding);
  const [bind, setBind] = useState<ParameterSet>({});
  const ids = joints.map((j) => j.id);
  const length = joints
    .slice(1)
    .reduce((sum, j, i) => sum + Math.hypot(...j.position.map((p, k) => p - (joints[i]?.position[k] ?? 0))), 0);
  const owner = d.mechanisms.find((m) => m.joints.some((j) => ids.includes(j)));
  const onChain = joints.every((j, i) => i === 0 || j.parent === joints[i - 1]?.id);
  return (
    <>
      <h2 className="font-serif text-[26px]">{joints.length} joints</h2>
      <p className="text-ink-soft border-b border-rule pb-1.5">
        {joints[0]?.name} to {joints.at(-1)?.name}
        {onChain ? `, ${figure(length)} m` : ", not one chain"}
      </p>
      <CopyNote id={ids[0] ?? ""} />
      <BuildTools on={joints} />
      {onChain && (
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
          <button
            type="button"
            className="underline"
            title="It begins where it ended; the joints keep their names in order"
            onClick={() => void edit({ kind: "reverse-chain", joints: ids })}
          >
            turn it round
          </button>
        </Section>
      )}
      <AddControl at={joints} />
      <GroupTools ids={ids} />
      <NameTools ids={ids} first={joints[0]?.name ?? ""} />
      {step !== "motion" && <RepeatTools joints={joints} />}
      {step === "skeleton" && (
        <>
          <OrientTools joints={joints} />
          <HangTools joints={joints} />
        </>
      )}
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
          Dissolve
        </button>
      </div>
    </>
  );
}
