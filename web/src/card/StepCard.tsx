import { useRef } from "react";
import { ACCEPTED, ofInput } from "../server/brought";
import { edit, importParts } from "../server/session";
import { startPicking } from "../stage/picking";
import { AS_IT_CAME, documentOf, setState, state, useDocument, useMyriapod, useOrigins } from "../state/store";
import type { Change } from "../wire/edits.gen";
import type { Specimen } from "../wire/wire.gen";
import { goToStep, startLaying } from "../work/building";
import { play } from "../work/motion";
import { AddControl } from "./AddControl";
import { FitCard } from "./FitCard";
import { GroupList } from "./GroupCard";
import { Handoff } from "./Handoff";
import { Measures } from "./Measures";
import { withDefaults } from "./OptionFields";
import { CardLink, Section } from "./parts";
import { SnapTools } from "./SnapTools";
import { MechanismGuide, StepGuide } from "./StepGuide";
import { WholeTools } from "./WholeTools";

const RANGE = "range_of_motion";

/** judge makes a clip in which every limited channel goes to its ends as they are now, and plays it. */
async function judge() {
  if (!(await edit({ kind: "add-range-clip", name: RANGE }))) return;
  setState({ clip: documentOf().clips.find((c) => c.name === RANGE)?.id ?? state().clip, time: 0 });
  play(true);
}

/** StepCard stands when nothing is chosen: what the step is for and what to do next. */
export function StepCard() {
  const step = useMyriapod((s) => s.step);
  const d = useDocument();
  const survey = useMyriapod((s) => s.specimen?.survey);
  const all = useMyriapod((s) => s.specimen?.findings);
  const findings = (all ?? []).filter((f) => step === "trials" || f.step === step);
  const raised = useMyriapod((s) => s.raised);
  const binding = useMyriapod((s) => s.binding);
  const origins = useOrigins();
  if (!d) return null;
  const made = (thing: { id: string }) => !(thing.id in origins);
  return (
    <>
      <h2 className="font-serif text-[26px] border-b border-rule mb-2">{step.replace(/^./, (c) => c.toUpperCase())}</h2>
      {step === "model" && <ModelNext />}
      {step === "skeleton" && (
        <>
          <p>
            {d.joints.length === 0
              ? "No joint is laid yet. Lay a chain by clicking along the body: each joint lands in the middle of the volume under the pointer."
              : `${d.joints.length} joints. Choose one to move or extend it, or lay another chain.`}
          </p>
          <button type="button" className="action action-main mt-2" onClick={startLaying}>
            Lay a chain <span className="key">J</span>
          </button>
          {d.joints[0] && (
            <button
              type="button"
              className="action mt-2 ml-2"
              onClick={() => setState({ chosen: d.joints.map((j) => j.id) })}
            >
              Choose all joints
            </button>
          )}
          {d.joints.length === 0 && <StepGuide step="skeleton" />}
        </>
      )}
      {step === "mechanisms" && (
        <>
          <p>
            {d.joints.length === 0
              ? "Mechanisms stand on joints, and none is laid yet."
              : d.mechanisms.length === 0
                ? "Choose the joints of a chain, then build on them. Nothing moves when you build."
                : "Drag a collar to test; it springs back when let go."}
          </p>
          {d.joints.length === 0 ? (
            <button type="button" className="action action-main mt-2" onClick={() => goToStep("skeleton")}>
              To the skeleton
            </button>
          ) : (
            d.mechanisms.length === 0 && (
              <button
                type="button"
                className="action action-main mt-2"
                onClick={() => setState({ chosen: d.joints.map((j) => j.id) })}
              >
                Choose all joints
              </button>
            )
          )}
          {d.mechanisms.length > 0 && <WholeTools />}
          {d.mechanisms.length === 0 && <MechanismGuide />}
          <Section title="In this rig">
            {d.mechanisms.filter(made).map((m) => (
              <CardLink key={m.id} id={m.id} what={m.on ? "●" : "○"} />
            ))}
            <Copies of={d.mechanisms} />
          </Section>
        </>
      )}
      {step === "controls" && (
        <>
          <p>
            {d.controls.length === 0
              ? "Controls come with the mechanisms; free ones are added here."
              : "Choose a control to read and set its channels."}
          </p>
          {d.controls.length <= 2 && <StepGuide step="controls" />}
          <AddControl at={[]} />
          <GroupList />
          <Measures />
          <Section title="In this rig">
            {d.controls.filter(made).map((c) => (
              <CardLink key={c.id} id={c.id} what={c.id === survey?.global || c.id === survey?.root ? "⚑" : "◇"} />
            ))}
            <Copies of={d.controls} />
          </Section>
        </>
      )}
      {step === "skin" && (
        <>
          <p>
            {d.parts.length === 0
              ? "There is no model to bind. Bring one in first."
              : `${d.bindings.length} of ${d.parts.length} parts are bound. Choose parts to bind them, or bind all to a chain.`}
          </p>
          <BindAll />
          {d.parts.length > 0 && d.joints.length > 0 && (
            <button
              type="button"
              className="action mt-2"
              onClick={() =>
                void edit(
                  {
                    kind: "bind",
                    parts: d.parts.filter((p) => !d.bindings.some((b) => b.part === p.id)).map((p) => p.id),
                    joints: d.joints.map((j) => j.id),
                    ...withDefaults(binding, {}),
                  },
                  "Binding the skin",
                )
              }
              disabled={d.bindings.length === d.parts.length}
            >
              Bind all that is not bound to all joints
            </button>
          )}
          {d.parts.length > 0 && d.mechanisms.length === 0 && d.joints.length > 0 && (
            <button
              type="button"
              className="action mt-2"
              onClick={() => setState({ chosen: d.joints.map((j) => j.id) })}
            >
              Choose all joints
            </button>
          )}
          {d.bindings.length > 0 && d.controls.length > 0 && (
            <button
              type="button"
              className="action mt-2"
              title="A clip in which every limited channel goes to its ends and back, to judge the skin by"
              onClick={() => void judge()}
            >
              Play the range of motion
            </button>
          )}
          {d.bindings.length === 0 && <StepGuide step="skin" />}
          <Section title="Parts">
            {d.parts.map((p) => (
              <CardLink key={p.id} id={p.id} what={d.bindings.some((b) => b.part === p.id) ? "bound" : "not bound"} />
            ))}
          </Section>
        </>
      )}
      {step === "motion" && (
        <>
          <p>Choose a control, pose it, and key it at the frame of the timeline. What moves by itself plays along.</p>
          <button type="button" className="action action-main mt-2" onClick={() => play()}>
            Play <span className="key">Space</span>
          </button>
          {d.clips.every((c) => c.tracks.length === 0) && <StepGuide step="motion" />}
        </>
      )}
      {step === "trials" && (
        <p>
          {findings.length + raised.length === 0
            ? "Nothing in this rig asks for attention."
            : "What in this rig asks for attention:"}
        </p>
      )}
      {step === "skeleton" && d.repeats.length > 0 && (
        <Section title="Repeats">
          {d.repeats.map((r) => (
            <CardLink key={r.id} id={r.id} what="↻" />
          ))}
        </Section>
      )}
      {step === "skeleton" && <SnapTools />}
      {step === "handoff" && (
        <>
          <Handoff />
          <GroupList />
        </>
      )}
      {(findings.length > 0 || (step === "trials" && raised.length > 0)) && (
        <Section title="Findings">
          {[...findings, ...(step === "trials" ? raised : [])].map((f) => (
            <FindingRow key={f.subject + f.text} finding={f} />
          ))}
        </Section>
      )}
    </>
  );
}

/** MANY is from how many buttons on they are folded away. */
const MANY = 8;

/** BindAll binds the whole model to one mechanism. It is folded away where that would take other bindings' place, and where there are many. */
function BindAll() {
  const d = documentOf();
  const binding = useMyriapod((s) => s.binding);
  const movers = d.mechanisms.filter((m) => m.joints.length > 0);
  const anew = d.bindings.length > 0;
  const buttons = movers.map((m) => (
    <button
      key={m.id}
      type="button"
      className={`action mt-2 ${anew ? "" : "action-main"}`}
      onClick={() =>
        void edit(
          { kind: "bind", parts: d.parts.map((p) => p.id), joints: m.joints, ...withDefaults(binding, {}) },
          "Binding the skin",
        )
      }
    >
      Bind all to {m.name}
    </button>
  ));
  if (!anew && movers.length <= MANY) return buttons;
  return (
    <details className="mt-1">
      <summary className="underline cursor-pointer">{anew ? "bind all parts anew" : "bind all parts"}</summary>
      {buttons}
    </details>
  );
}

/** Copies tells how many of a list repeats make. */
function Copies({ of }: { of: { id: string }[] }) {
  const origins = useOrigins();
  const count = of.filter((thing) => thing.id in origins).length;
  return count > 0 ? <p className="text-ink-soft px-1">and {count} copies that repeats make of these</p> : null;
}

/** FindingRow tells of a finding, leads to it, and mends it where one action does. */
function FindingRow({ finding: f }: { finding: Specimen["findings"][number] | { subject: string; text: string } }) {
  const mend = "mend" in f ? f.mend : undefined;
  return (
    <div className="py-1">
      <button
        type="button"
        className="text-left text-vermilion-deep hover:underline block"
        onClick={() => setState({ chosen: [f.subject] })}
      >
        ⚑ {f.text}
      </button>
      {mend && (
        <button type="button" className="action mt-1" onClick={() => void edit(mend.edit as Change)}>
          {mend.title}
        </button>
      )}
    </div>
  );
}

function ModelNext() {
  const d = useDocument();
  const wire = useMyriapod((s) => s.wire);
  const fitting = useMyriapod((s) => s.fitting);
  const input = useRef<HTMLInputElement>(null);
  if (!d) return null;
  return (
    <>
      <p>
        {d.parts.length === 0
          ? "There is no model yet. Import one: OBJ, GLB or glTF, together with the files beside it, or a zip. Units are metres."
          : `${d.parts.length} parts. Choose one to show, ghost, hide or colour it.`}
      </p>
      <div className="flex flex-wrap gap-2 mt-2">
        <button
          type="button"
          className={`action ${d.parts.length === 0 ? "action-main" : ""}`}
          onClick={() => input.current?.click()}
        >
          Import {d.parts.length === 0 ? "a model" : "more parts"}
        </button>
        <button type="button" className="action" aria-pressed={wire} onClick={() => setState({ wire: !wire })}>
          {wire ? "✓ " : ""}Wire overlay
        </button>
        {d.parts.length > 0 && (
          <>
            <button type="button" className="action" onClick={() => startPicking("faces")}>
              Pick elements <span className="key">E</span>
            </button>
            {!fitting && (
              <button type="button" className="action" onClick={() => setState({ fitting: AS_IT_CAME })}>
                Size and stand
              </button>
            )}
            <button type="button" className="action" onClick={() => goToStep("skeleton")}>
              On to the skeleton
            </button>
          </>
        )}
      </div>
      {fitting && d.parts.length > 0 && <FitCard fitting={fitting} />}
      <input
        ref={input}
        type="file"
        className="hidden"
        aria-label="Model file"
        accept={ACCEPTED}
        multiple
        onChange={async (e) => {
          const all = ofInput(e.target.files);
          e.target.value = "";
          for (const brought of all) await importParts(brought);
        }}
      />
      <Section title="Parts">
        {d.parts.map((p) => (
          <CardLink
            key={p.id}
            id={p.id}
            what={p.sight === "shown" ? "●" : p.sight === "ghost" ? "◐" : "○"}
            note={p.vertices.toLocaleString("en")}
          />
        ))}
      </Section>
    </>
  );
}
