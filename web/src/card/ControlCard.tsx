import { documentOf, setState, state, useMyriapod } from "../state/store";
import type { Control } from "../wire/rig.gen";
import { channelValues, chosenControls } from "../work/channels";
import { keyControls, wiggle, zeroChosen } from "../work/motion";
import { AddControl } from "./AddControl";
import { BuildTools } from "./BuildTools";
import { ChannelRows, Limits } from "./Channels";
import { CopyNote } from "./CopyNote";
import { DialTools } from "./DialTools";
import { GiveTools } from "./GiveTools";
import { GroupTools } from "./GroupTools";
import { HomeTools } from "./HomeTools";
import { NameTools } from "./NameTools";
import { OutlineTools } from "./OutlineTools";
import { CardHead, CardLink, Section } from "./parts";
import { FollowSwitch, SpaceSwitch, SpaceTools } from "./SpaceTools";

/** what says what a control is for. */
function what(control: Control): string {
  const survey = state().specimen?.survey;
  if (control.id === survey?.global) return "Carries and scales everything";
  if (control.id === survey?.root) return "Carries the body";
  return `${control.shape.replace(/^./, (c) => c.toUpperCase())} control`;
}

/** ControlCard shows a control's channels, what it belongs to, and what can be done with it. */
export function ControlCard({ control }: { control: Control }) {
  const d = documentOf();
  const channels = useMyriapod(() =>
    channelValues(control)
      .map((v) => v.toFixed(6))
      .join(" "),
  );
  const several = useMyriapod(() => chosenControls().length);
  const keep = useMyriapod((s) => s.keep);
  const held = useMyriapod((s) => !!s.held[control.id]);
  const step = useMyriapod((s) => s.step);
  const values = channels.split(" ").map(Number);
  const owners = d.mechanisms.filter((m) => m.controls.includes(control.id));
  return (
    <>
      <CardHead id={control.id} name={control.name}>
        <span className="text-ochre-deep">{several > 1 ? `One of ${several} chosen controls` : what(control)}</span>
        <span className="text-ink-soft">order {control.order}</span>
      </CardHead>
      <CopyNote id={control.id} />
      <ChannelRows control={control} values={values} />
      <SpaceSwitch control={control} />
      <FollowSwitch control={control} />
      {held && step !== "motion" && (
        <p className="text-ink-soft">A test pose: it is not part of the rig. Return it to zero, or key it in Motion.</p>
      )}
      {held && step === "motion" && (
        <p className="text-vermilion-deep">Not keyed yet: press K to key it at this frame.</p>
      )}
      {owners.map((m) => (
        <GiveTools key={m.id} mechanism={m} />
      ))}
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
      {step === "mechanisms" && <BuildTools on={chosenControls()} />}
      {step !== "motion" && (
        <>
          <SpaceTools control={control} />
          <HomeTools control={control} />
          <DialTools control={control} />
          <OutlineTools control={control} />
          <GroupTools ids={chosenControls().map((c) => c.id)} />
          <AddControl at={chosenControls()} />
          <NameTools ids={chosenControls().map((c) => c.id)} first={control.name} ways={["label", "replace"]} />
        </>
      )}
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
