import { useState } from "react";
import { documentOf, useMyriapod } from "../state/store";
import type { Channel, ChannelState, Control } from "../wire/rig.gen";
import { changeChannels, chosenControls, limitHere, type Row, rowsOf, stateOf } from "../work/channels";
import { glideHome, hold } from "../work/motion";
import { isDriven } from "../work/values";
import { Drivers } from "./Drivers";
import { NumberField } from "./NumberField";
import { Section } from "./parts";

/** holdAll holds a number of every chosen control that has it and lets it be moved. */
function holdAll(channel: Channel, value: number) {
  for (const c of chosenControls())
    if (!stateOf(c, channel).locked && rowsOf(c).some((row) => row.channel === channel))
      hold(c.id, { [channel]: value });
}

/** ChannelRows shows a control's channels, to be tried, locked and hidden. Animators do not see the hidden ones. */
export function ChannelRows({ control, values }: { control: Control; values: number[] }) {
  const animating = useMyriapod((s) => s.step === "motion");
  const rows = rowsOf(control).map((row, i) => ({
    ...row,
    value: values[i] ?? row.rest,
    state: stateOf(control, row.channel),
  }));
  const [all, setAll] = useState(false);
  const [driving, setDriving] = useState<string>(); // the channel whose drivers are open
  const d = documentOf();
  const shown = rows.filter(({ state }) => all || !state.hidden || (!animating && !state.locked));
  return (
    <div className="flex flex-col gap-1.5 py-1">
      {shown.map(({ channel, title, value, state, scale, unit, decimals, step, dial }) => {
        return (
          <div key={channel}>
            <div className={`flex items-center gap-1 ${state.hidden ? "text-ink-soft italic" : ""}`}>
              <div className="grow">
                {state.locked ? (
                  <p className="flex justify-between text-locked">
                    <span>{title}</span>
                    <span className="w-[84px] text-right pr-1.5">locked</span>
                  </p>
                ) : (
                  <NumberField
                    label={title}
                    narrow={!animating}
                    unit={unit}
                    decimals={decimals}
                    step={step}
                    value={value / scale}
                    min={dial ? dial.min : hardEnd(state, "min") / scale}
                    max={dial ? dial.max : hardEnd(state, "max") / scale}
                    onTry={(v) => holdAll(channel, v * scale)}
                    onKeep={(v, typed) => {
                      holdAll(channel, v * scale);
                      if (!typed) for (const c of chosenControls()) glideHome(c.id); // what was typed is meant to be looked at
                    }}
                  />
                )}
              </div>
              {!animating && (
                <>
                  <Toggle
                    on={!!state.locked}
                    title={`Lock ${title}`}
                    text="lock"
                    onPress={() => changeChannels([{ channel, locked: !state.locked }])}
                  />
                  <Toggle
                    on={!!state.hidden}
                    title={`Hide ${title} from animators`}
                    text="hide"
                    onPress={() => changeChannels([{ channel, hidden: !state.hidden }])}
                  />
                  <Toggle
                    on={isDriven(d, control.id, channel)}
                    title={`Drive ${title}`}
                    text="drive"
                    onPress={() => setDriving(driving === channel ? undefined : channel)}
                  />
                </>
              )}
            </div>
            {driving === channel && <Drivers of={{ of: control.id, key: channel }} unit={unit} shown={1 / scale} />}
          </div>
        );
      })}
      {shown.length < rows.length && animating && (
        <p className="text-ink-soft">{rows.length - shown.length} more are hidden.</p>
      )}
      {!animating && (all || shown.length < rows.length) && (
        <button type="button" className="text-ink-soft underline self-start" onClick={() => setAll(!all)}>
          {all ? "put away what is locked and hidden" : `${rows.length - shown.length} more are locked and hidden`}
        </button>
      )}
    </div>
  );
}

/** hardEnd is where a channel ends; one that gives way is held by the core. */
function hardEnd(state: ChannelState, side: "min" | "max"): number {
  const open = side === "min" ? Number.NEGATIVE_INFINITY : Number.POSITIVE_INFINITY;
  return state.soft ? open : (state[side] ?? open);
}

interface ToggleProps {
  on: boolean;
  title: string;
  text: string;
  onPress(): void;
}

function Toggle({ on, title, text, onPress }: ToggleProps) {
  return (
    <button
      type="button"
      aria-label={title}
      aria-pressed={on}
      title={title}
      className={`w-8 rounded-sm not-italic ${on ? "bg-locked text-plate" : "text-ink-soft hover:text-ink hover:underline"}`}
      onClick={onPress}
    >
      {text}
    </button>
  );
}

/** Limits shows how far the channels of a control go, and sets them from where it stands. */
export function Limits({ control, values }: { control: Control; values: number[] }) {
  const animating = useMyriapod((s) => s.step === "motion");
  if (animating) return null;
  const several = chosenControls().length;
  const limited = rowsOf(control).filter(({ channel }) => {
    const { min, max } = stateOf(control, channel);
    return min !== undefined || max !== undefined;
  });
  const away = values.some((v, i) => i < 6 && Math.abs(v) > 1e-6);
  return (
    <Section title="Limits">
      {limited.map((row) => (
        <div key={row.channel} className="mb-1">
          <div className="flex items-center gap-1.5">
            <span className="grow whitespace-nowrap">{row.title.replace(" (twist)", "")}</span>
            <LimitField control={control} row={row} side="min" />
            <LimitField control={control} row={row} side="max" />
            <button
              type="button"
              aria-label={`Free ${row.title} of its limits`}
              className="w-8 text-ink-soft hover:text-ink hover:underline"
              onClick={() => changeChannels([{ channel: row.channel, freeMin: true, freeMax: true, soft: 0 }])}
            >
              free
            </button>
          </div>
          <SoftField control={control} row={row} />
        </div>
      ))}
      <div className="flex items-center gap-2">
        <button type="button" className="action" disabled={!away} onClick={() => void limitHere(control)}>
          Limit here <span className="key">M</span>
        </button>
        {!away && <span className="text-ink-soft">Bring it as far as it should go, then press.</span>}
      </div>
      {several > 1 && <p className="text-ink-soft mt-1">Locks and limits count for all {several} chosen controls.</p>}
    </Section>
  );
}

interface LimitFieldProps {
  control: Control;
  row: Row;
  side: "min" | "max";
}

function LimitField({ control, row, side }: LimitFieldProps) {
  const value = stateOf(control, row.channel)[side];
  if (value === undefined) return <span className="w-[66px] text-right text-ink-soft pr-1.5">no end</span>;
  return (
    <NumberField
      hideLabel
      narrow
      label={`${row.title}, ${side === "min" ? "at least" : "at most"}`}
      unit={row.unit}
      decimals={row.decimals}
      step={row.step}
      value={value / row.scale}
      onKeep={(v) => void changeChannels([{ channel: row.channel, [side]: v * row.scale }])}
    />
  );
}

/** SoftField says how long before its limits a channel gives way: not at all for hard limits. */
function SoftField({ control, row }: { control: Control; row: Row }) {
  const { soft = 0 } = stateOf(control, row.channel);
  return (
    <div className="flex items-center justify-between text-ink-soft pl-3 pr-[38px]">
      <span>{soft > 0 ? "soft, giving way over" : "hard; giving way over"}</span>
      <NumberField
        hideLabel
        narrow
        label={`${row.title}, how long it gives way before its limits`}
        unit={row.unit}
        decimals={row.decimals}
        step={row.step}
        min={0}
        value={soft / row.scale}
        onKeep={(v) => void changeChannels([{ channel: row.channel, soft: v * row.scale }])}
      />
    </div>
  );
}
