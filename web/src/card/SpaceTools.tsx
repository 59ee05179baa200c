import { askSwitch, edit } from "../server/session";
import { documentOf, useMyriapod } from "../state/store";
import type { Control } from "../wire/rig.gen";
import { channelValues, chosenControls } from "../work/channels";
import { linkOf } from "../work/values";
import { HangField } from "./HangField";
import { ORDERS } from "./OrientTools";
import { nameOf, Section } from "./parts";

/** spacesOf lists what a control can hang on, its first space first. */
const spacesOf = (control: Control) => [control.space ?? "", ...(control.spaces ?? [])];

const spaceName = (id: string) => (id === "" ? "the world" : nameOf(id));

/** SpaceTools hangs controls on something else, offers spaces to switch between, and chooses their rotation order. At rest nothing moves by it. */
export function SpaceTools({ control }: { control: Control }) {
  const d = documentOf();
  const ids = () => chosenControls().map((c) => c.id);
  const hang = (space: string) => void edit({ kind: "hang-controls", controls: ids(), space }, "Hanging");
  const offer = (spaces: string[]) => void edit({ kind: "offer-spaces", controls: ids(), spaces }, "Offering spaces");
  const offered = control.spaces ?? [];
  return (
    <Section title="Hang elsewhere">
      <HangField
        label="Control or joint to hang on"
        placeholder="on the one called"
        carriers={[...d.controls, ...d.joints].filter((t) => t.id !== control.id)}
        onHang={hang}
        also={{
          verb: "Switch to",
          title: "It goes on hanging where it does, and can be switched to this while it is posed",
          run: (space) => offer([...offered, space]),
        }}
      />
      {offered.map((space) => (
        <p key={space} className="flex justify-between px-1">
          <span>
            <span className="text-ink-soft">can switch to</span> {spaceName(space)}
          </span>
          <button
            type="button"
            aria-label={`Take ${spaceName(space)} away`}
            className="text-ink-soft hover:text-ink"
            onClick={() => offer(offered.filter((other) => other !== space))}
          >
            ×
          </button>
        </p>
      ))}
      <div className="flex gap-3 px-1">
        {control.space && (
          <button type="button" className="underline" onClick={() => hang("")}>
            on the world
          </button>
        )}
        {control.space && !offered.includes("") && (
          <button type="button" className="underline" onClick={() => offer([...offered, ""])}>
            offer the world
          </button>
        )}
      </div>
      <label className="flex justify-between items-center mt-1">
        Rotation order
        <select
          className="field"
          value={control.order}
          onChange={(e) => void edit({ kind: "order-controls", controls: ids(), order: e.target.value })}
        >
          {ORDERS.map((o) => (
            <option key={o}>{o}</option>
          ))}
        </select>
      </label>
    </Section>
  );
}

/** SpaceSwitch hangs a control on another of its spaces while it stays where it stands. */
export function SpaceSwitch({ control }: { control: Control }) {
  const at = useMyriapod(() => {
    const dial = (control.dials ?? []).findIndex((dial) => dial.name === "space");
    return Math.round(channelValues(control)[6 + dial] ?? 0);
  });
  if (!control.spaces?.length) return null;
  return (
    <label className="flex justify-between items-center py-1">
      Hangs on, staying in place
      <select className="field" value={at} onChange={(e) => askSwitch(control.id, Number(e.target.value))}>
        {spacesOf(control).map((space, i) => (
          <option key={space} value={i}>
            {spaceName(space)}
          </option>
        ))}
      </select>
    </label>
  );
}

/** FollowSwitch has a control follow another of its sources while it stays where it stands. */
export function FollowSwitch({ control }: { control: Control }) {
  const d = documentOf();
  const dials = control.dials ?? [];
  const follow = d.mechanisms.find((m) => m.homes?.includes(control.id) && (m.takes?.length ?? 0) > 1);
  const by = follow && linkOf(d, follow.id, "source");
  const dial = dials.findIndex((x) => by?.of === control.id && x.name === by.key);
  const at = useMyriapod(() => Math.round(channelValues(control)[6 + dial] ?? 0));
  if (!follow || dial < 0) return null;
  return (
    <label className="flex justify-between items-center py-1">
      Follows, staying in place
      <select
        className="field"
        value={at}
        onChange={(e) => askSwitch(control.id, Number(e.target.value), dials[dial]?.name)}
      >
        {(follow.takes ?? []).map((id, i) => (
          <option key={id} value={i}>
            {nameOf(id)}
          </option>
        ))}
      </select>
    </label>
  );
}
