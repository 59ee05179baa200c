import { askMatch, edit } from "../server/session";
import { documentOf, setState } from "../state/store";
import type { Mechanism } from "../wire/rig.gen";
import { HangField } from "./HangField";
import { NumberField } from "./NumberField";
import { nameOf, Section } from "./parts";

/** MatchTools hands the joints over to this mechanism, where several move them and dials choose. What is seen stays. */
export function MatchTools({ mechanism }: { mechanism: Mechanism }) {
  const others = documentOf().mechanisms.filter(
    (m) => m.id !== mechanism.id && m.joints.some((j) => mechanism.joints.includes(j)),
  );
  if (others.length === 0) return null;
  return (
    <Section title="Shares its joints">
      <p className="text-ink-soft">with {others.map((m) => m.name).join(", ")}.</p>
      <button
        type="button"
        className="action mt-1"
        title="Its controls come to where the joints stand, and its dial gives it charge"
        onClick={() => askMatch(mechanism.id)}
      >
        Match, and take over
      </button>
    </Section>
  );
}

/** ArrangeTools adds to the controls along a chain, thins them out and slides them. The rest pose stays; keyed poses are fitted. */
export function ArrangeTools({ mechanism: m }: { mechanism: Mechanism }) {
  const places = m.places ?? m.controls.map((_, i) => i / Math.max(1, m.controls.length - 1));
  const arrange = (list: { id: string; at: number }[]) =>
    void edit(
      { kind: "arrange-controls", mechanism: m.id, controls: list.map((c) => c.id), places: list.map((c) => c.at) },
      "Arranging controls",
    );
  const now = m.controls.map((id, i) => ({ id, at: places[i] ?? 0 }));
  const addBetween = () => {
    const gaps = now.slice(1).map((c, i) => c.at - (now[i]?.at ?? 0));
    const widest = gaps.indexOf(Math.max(...gaps));
    const before = now[widest]?.at ?? 0;
    arrange(now.toSpliced(widest + 1, 0, { id: "", at: before + (gaps[widest] ?? 0) / 2 }));
  };
  return (
    <Section title="Controls along it">
      {now.map(({ id, at }, i) => {
        const inner = i > 0 && i < now.length - 1;
        return (
          <div key={id} className="flex items-center gap-1">
            <button
              type="button"
              className="grow text-left hover:underline"
              onClick={() => setState({ chosen: [id] })}
              onPointerEnter={() => setState({ hovered: id })}
              onPointerLeave={() => setState({ hovered: undefined })}
            >
              {nameOf(id)}
            </button>
            {inner ? (
              <>
                <NumberField
                  hideLabel
                  narrow
                  label={`Place of ${nameOf(id)}`}
                  unit="%"
                  decimals={1}
                  step={0.5}
                  min={100 * (now[i - 1]?.at ?? 0) + 0.1}
                  max={100 * (now[i + 1]?.at ?? 1) - 0.1}
                  value={100 * at}
                  onKeep={(v) => arrange(now.map((c) => (c.id === id ? { id, at: v / 100 } : c)))}
                />
                <button
                  type="button"
                  aria-label={`Take ${nameOf(id)} out`}
                  className="w-6 text-ink-soft hover:text-ink"
                  onClick={() => arrange(now.filter((c) => c.id !== id))}
                >
                  ×
                </button>
              </>
            ) : (
              <span className="figure w-[94px] text-ink-soft">{i === 0 ? "first end" : "last end"}</span>
            )}
          </div>
        );
      })}
      <button type="button" className="action mt-1" onClick={addBetween}>
        Add a control
      </button>
    </Section>
  );
}

/** EndTools pins the ends of a chain to joints and controls, so that they never part, and frees them. */
export function EndTools({ mechanism: m }: { mechanism: Mechanism }) {
  const d = documentOf();
  const pin = (end: "first" | "last", to = "") =>
    void edit({ kind: "pin-end", mechanism: m.id, end, to }, to ? "Pinning" : "Freeing");
  const ends = [
    { end: "first", control: d.controls.find((c) => c.id === m.controls[0]) },
    { end: "last", control: d.controls.find((c) => c.id === m.controls.at(-1)) },
  ] as const;
  return (
    <Section title="Ends">
      {ends.map(({ end, control }) => {
        const locked = ["moveX", "moveY", "moveZ"].every((k) => control?.channels?.[k]?.locked);
        return locked && control?.space ? (
          <p key={end} className="flex justify-between py-0.5">
            <span>
              <span className="text-ink-soft">{end} end pinned to</span> {nameOf(control.space)}
            </span>
            <button
              type="button"
              aria-label={`Free the ${end} end`}
              className="text-ink-soft hover:text-ink hover:underline"
              onClick={() => pin(end)}
            >
              free
            </button>
          </p>
        ) : (
          <HangField
            key={end}
            label={`Joint or control to pin the ${end} end to`}
            placeholder={`${end} end to the one called`}
            verb="Pin"
            carriers={[...d.joints.filter((j) => !m.joints.includes(j.id)), ...d.controls]}
            onHang={(to) => pin(end, to)}
          />
        );
      })}
    </Section>
  );
}

/** ExtendTools has a chain end at another joint: any below its first. */
export function ExtendTools({ mechanism: m }: { mechanism: Mechanism }) {
  const d = documentOf();
  const below = new Set(m.joints.slice(0, 1));
  for (const id of below) for (const j of d.joints) if (j.parent === id) below.add(j.id);
  const last = m.joints.at(-1) ?? "";
  return (
    <Section title="Where it ends">
      <p className="text-ink-soft">
        It pulls {m.joints.length} joints, to {nameOf(last)}.
      </p>
      <HangField
        label="Joint to end at"
        placeholder="let it end at"
        verb="End"
        carriers={d.joints.filter((j) => below.has(j.id) && j.id !== last && j.id !== m.joints[0])}
        onHang={(joint) => void edit({ kind: "extend-chain", mechanism: m.id, last: joint }, "Extending")}
      />
    </Section>
  );
}
