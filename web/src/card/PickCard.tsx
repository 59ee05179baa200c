import { useState } from "react";
import { edit } from "../server/session";
import { act, setPicking, startPicking } from "../stage/picking";
import { documentOf, type Picking, setState, useMyriapod } from "../state/store";
import { figure } from "../text/numbers";
import type { Change } from "../wire/edits.gen";
import { HangField } from "./HangField";
import { PickedWeights } from "./PickedWeights";
import { Section } from "./parts";
import { RimTools } from "./RimTools";
import { TubeField } from "./TubeField";

const KINDS = ["vertices", "edges", "faces"] as const;

/** PickCard is for picking elements of the model, and what can be done with them. */
export function PickCard({ picking }: { picking: Picking }) {
  const d = documentOf();
  const [name, setName] = useState("piece");
  const saving = useMyriapod((s) => s.saving > 0);
  const picked = picking.picked;
  const of = picked?.elements.of ?? {};
  const parts = Object.keys(of).filter((id) => (of[id]?.length ?? 0) > 0);
  const part = d.parts.find((p) => p.id === parts[0]);
  const faces = picked?.elements.kind === "faces" && part && parts.length === 1 ? of[part.id] : undefined;
  const done = async (change: Change, title: string) => {
    if (await edit(change, title)) setPicking({ picked: undefined });
  };
  const tool = (title: string, what: string, why?: string) => (
    <button
      type="button"
      className="action"
      disabled={!picked || !!why || saving}
      title={why}
      onClick={() => void act(what)}
    >
      {title}
    </button>
  );
  return (
    <>
      <h2 className="font-serif text-[26px] border-b border-rule mb-2">Pick elements</h2>
      <div className="flex gap-3">
        {KINDS.map((kind) => (
          <label key={kind} className="flex gap-1.5">
            <input
              type="radio"
              checked={picking.kind === kind}
              onChange={() => startPicking(kind)}
              className="accent-violet"
            />
            {kind}
          </label>
        ))}
      </div>
      <label className="flex gap-2 mt-1">
        <input
          type="checkbox"
          checked={picking.through}
          onChange={(e) => setPicking({ through: e.target.checked })}
          className="accent-violet"
        />
        through the model, not the front only
      </label>
      <p className="mt-2" data-picked={picked?.count ?? 0}>
        {picked
          ? `${picked.count.toLocaleString("en")} ${picked.elements.kind} of ${parts.map((id) => d.parts.find((p) => p.id === id)?.name).join(", ") || "nothing"}`
          : "Click on the model to pick; with Shift add and take away."}
      </p>
      {picked?.centre && (
        <p className="figure text-ochre-deep" data-centre-of-picked={picked.centre.join(" ")}>
          ◆ middle {picked.centre.map((v) => figure(v)).join(", ")} m
        </p>
      )}
      {picked && picked.elements.kind === "edges" && picked.closed && (
        <p className="text-teal-deep">The ring closes.</p>
      )}
      <div className="flex flex-wrap gap-2 mt-2">
        <button
          type="button"
          className={`action ${picking.window ? "action-main" : ""}`}
          aria-pressed={picking.window}
          onClick={() => setPicking({ window: !picking.window })}
        >
          Rectangle
        </button>
        {tool("Grow", "grow")}
        {tool("Shrink", "shrink")}
        {tool("Loose piece", "piece")}
        {tool("Ring", "ring", picking.kind === "edges" ? undefined : "pick one edge first")}
      </div>
      {picked?.centre && (
        <Section title="At the middle">
          <button
            type="button"
            className="action"
            onClick={() => {
              const at = picked.centre;
              if (!at) return;
              void edit({ kind: "lay-chain", positions: [at], pattern: `joint_${d.joints.length + 1}` }).then(
                (made) => {
                  const added = made?.document.joints.findLast((j) => j.position.every((v, i) => v === at[i]));
                  startPicking();
                  if (added) setState({ chosen: [added.id], step: "skeleton" });
                },
              );
            }}
          >
            Lay a joint here
          </button>
        </Section>
      )}
      {part && parts.length === 1 && picked && picked.elements.kind !== "faces" && (
        <RimTools part={part} vertices={[...new Set(of[part.id])]} />
      )}
      {part && parts.length === 1 && picked && picked.elements.kind !== "faces" && (
        <PickedWeights part={part} vertices={[...new Set(of[part.id])]} />
      )}
      {faces && part && (
        <Section title={`With these faces of ${part.name}`}>
          <form
            className="flex gap-2 items-center"
            onSubmit={(e) => {
              e.preventDefault();
              void done({ kind: "split-part", part: part.id, faces, name }, "Splitting");
            }}
          >
            <input
              aria-label="Name of the new part"
              className="field grow figure"
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
            <button type="submit" className="action">
              Split off
            </button>
          </form>
          <button
            type="button"
            className="action mt-1.5"
            onClick={() => void done({ kind: "flip-faces", parts: [part.id], faces }, "Flipping")}
          >
            Flip
          </button>
          <HangField
            label="Joint that these faces are fixed to"
            placeholder="fix them to the joint"
            verb="Fix"
            carriers={d.joints}
            onHang={(joint) => void done({ kind: "bind-rigid", parts: [part.id], joint, faces }, "Fixing")}
          />
          <TubeField part={part} faces={faces} />
        </Section>
      )}
      <button type="button" className="action mt-3" onClick={() => startPicking()}>
        Leave <span className="key">Escape</span>
      </button>
    </>
  );
}
