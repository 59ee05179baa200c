import { keyControls, wiggle, zeroChosen } from "../motion";
import { documentOf, setState, useMyriapod } from "../store";
import type { Control } from "../wire/rig.gen";
import { ChannelRows, Limits } from "./Channels";
import { CopyNote } from "./CopyNote";
import { CardHead, CardLink, Section } from "./parts";
import { SpaceTools } from "./SpaceTools";

/** ControlCard shows a control's channels, what it belongs to, and what can be done with it. */
export function ControlCard({ control }: { control: Control }) {
  const d = documentOf();
  const index = d.controls.findIndex((c) => c.id === control.id);
  const channels = useMyriapod((s) =>
    [...(s.frame?.controls.subarray(index * 18 + 12, index * 18 + 18) ?? [])].map((v) => v.toFixed(6)).join(" "),
  );
  const keep = useMyriapod((s) => s.keep);
  const held = useMyriapod((s) => !!s.held[control.id]);
  const step = useMyriapod((s) => s.step);
  const values = channels.split(" ").map(Number);
  const owners = d.mechanisms.filter((m) => m.controls.includes(control.id));
  return (
    <>
      <CardHead id={control.id} name={control.name}>
        <span className="text-ochre-deep">
          {control.shape === "pennant" ? "Root pennant, carries all" : "Collar control"}
        </span>
        <span className="text-ink-soft">order {control.order}</span>
      </CardHead>
      <CopyNote id={control.id} />
      <ChannelRows control={control} values={values} />
      {held && step !== "motion" && (
        <p className="text-ink-soft">A test pose: it is not part of the rig. Return it to zero, or key it in Motion.</p>
      )}
      {held && step === "motion" && (
        <p className="text-vermilion-deep">Not keyed yet: press K to key it at this frame.</p>
      )}
      <Limits control={control} values={values} />
      <Section title="Works with">
        {control.space && <CardLink id={control.space} what="hangs on" />}
        {owners.map((m) => (
          <CardLink key={m.id} id={m.id} what="carries" />
        ))}
        {d.controls
          .filter((c) => c.space === control.id)
          .map((c) => (
            <CardLink key={c.id} id={c.id} what="carries" />
          ))}
      </Section>
      {step !== "motion" && <SpaceTools control={control} />}
      <div className="flex flex-wrap gap-2 mt-3">
        <button type="button" className="action action-main" onClick={() => wiggle(control.id)}>
          Wiggle <span className="key">W</span>
        </button>
        <button type="button" className="action" onClick={zeroChosen}>
          To zero <span className="key">0</span>
        </button>
        <button type="button" className="action" aria-pressed={keep} onClick={() => setState({ keep: !keep })}>
          {keep ? "✓ Kept" : "Keep pose"} <span className="key">H</span>
        </button>
        <button type="button" className="action" onClick={() => void keyControls([control.id])}>
          Key <span className="key">K</span>
        </button>
      </div>
    </>
  );
}
