import { useDocument, useMyriapod } from "../state/store";
import { ControlCard } from "./ControlCard";
import { GroupCard } from "./GroupCard";
import { ChainCard, JointCard } from "./JointCard";
import { MeasureTools } from "./Measures";
import { MechanismCard } from "./MechanismCard";
import { PartCard } from "./PartCard";
import { PickCard } from "./PickCard";
import { RepeatCard } from "./RepeatCard";
import { StepCard } from "./StepCard";

/** MarginCard tells about what is chosen, or about the step when nothing is. */
export function MarginCard() {
  const chosen = useMyriapod((s) => s.chosen);
  const picking = useMyriapod((s) => s.picking);
  const step = useMyriapod((s) => s.step);
  const d = useDocument();
  if (!d) return null;
  const of = <T extends { id: string }>(list: T[]) => list.filter((thing) => chosen.includes(thing.id));
  const [groups, controls, mechanisms, joints, parts, repeats] = [
    of(d.groups),
    of(d.controls),
    of(d.mechanisms),
    of(d.joints),
    of(d.parts),
    of(d.repeats),
  ];
  const key = chosen.join(" ");
  return (
    <aside aria-label="Margin card" className="px-4 py-3 overflow-y-auto min-h-0">
      {picking ? (
        <PickCard picking={picking} />
      ) : groups[0] ? (
        <GroupCard key={groups[0].id} group={groups[0]} />
      ) : repeats[0] ? (
        <RepeatCard key={repeats[0].id + repeats[0].pattern + repeats[0].replace} repeat={repeats[0]} />
      ) : controls[0] ? (
        <ControlCard key={controls[0].id} control={controls[0]} />
      ) : mechanisms[0] ? (
        <MechanismCard key={mechanisms[0].id} mechanism={mechanisms[0]} />
      ) : joints.length > 1 ? (
        <ChainCard key={key} joints={joints} />
      ) : joints[0] ? (
        <JointCard key={key} joint={joints[0]} />
      ) : parts[0] ? (
        <PartCard key={key} parts={parts} />
      ) : (
        <StepCard />
      )}
      {step === "controls" && !picking && <MeasureTools joints={joints} controls={controls} />}
    </aside>
  );
}
