import { CHANNELS, changeChannels, chosenControls, limitHere, stateOf, turns } from "../channels";
import { glideHome, hold } from "../motion";
import { DEGREE } from "../numbers";
import { useMyriapod } from "../store";
import type { Control } from "../wire/rig.gen";
import { NumberField } from "./NumberField";
import { Section } from "./parts";

/** ChannelRows shows a control's channels, to be tried, locked and hidden. Animators do not see the hidden ones. */
export function ChannelRows({ control, values }: { control: Control; values: number[] }) {
  const animating = useMyriapod((s) => s.step === "motion");
  const rows = CHANNELS.map((row, i) => ({ ...row, value: values[i] ?? 0, state: stateOf(control, row.channel) }));
  const shown = rows.filter(({ state }) => !animating || !state.hidden);
  return (
    <div className="flex flex-col gap-1.5 py-1">
      {shown.map(({ channel, title, value, state }) => {
        const scale = turns(channel) ? DEGREE : 1;
        return (
          <div key={channel} className={`flex items-center gap-1 ${state.hidden ? "text-ink-soft italic" : ""}`}>
            <div className="grow">
              {state.locked ? (
                <p className="flex justify-between text-locked">
                  <span>{title}</span>
                  <span className="w-[84px] text-right pr-1.5">locked</span>
                </p>
              ) : (
                <NumberField
                  label={title}
                  unit={turns(channel) ? "°" : "m"}
                  decimals={turns(channel) ? 1 : 3}
                  step={turns(channel) ? 1 : 0.005}
                  value={value / scale}
                  min={(state.min ?? Number.NEGATIVE_INFINITY) / scale}
                  max={(state.max ?? Number.POSITIVE_INFINITY) / scale}
                  onTry={(v) => hold(control.id, { [channel]: v * scale })}
                  onKeep={(v, typed) => {
                    hold(control.id, { [channel]: v * scale });
                    if (!typed) glideHome(control.id); // what was typed is meant to be looked at
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
              </>
            )}
          </div>
        );
      })}
      {shown.length < rows.length && <p className="text-ink-soft">{rows.length - shown.length} more are hidden.</p>}
    </div>
  );
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
  const limited = CHANNELS.filter(({ channel }) => {
    const { min, max } = stateOf(control, channel);
    return min !== undefined || max !== undefined;
  });
  const away = values.some((v) => Math.abs(v) > 1e-6);
  return (
    <Section title="Limits">
      {limited.map(({ channel, title }) => (
        <div key={channel} className="flex items-center gap-1.5 mb-1">
          <span className="grow whitespace-nowrap">{title.replace(" (twist)", "")}</span>
          <LimitField control={control} channel={channel} title={title} side="min" />
          <LimitField control={control} channel={channel} title={title} side="max" />
          <button
            type="button"
            aria-label={`Free ${title} of its limits`}
            className="w-8 text-ink-soft hover:text-ink hover:underline"
            onClick={() => changeChannels([{ channel, freeMin: true, freeMax: true }])}
          >
            free
          </button>
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
  channel: string;
  title: string;
  side: "min" | "max";
}

function LimitField({ control, channel, title, side }: LimitFieldProps) {
  const value = stateOf(control, channel)[side];
  const scale = turns(channel) ? DEGREE : 1;
  if (value === undefined) return <span className="w-[66px] text-right text-ink-soft pr-1.5">no end</span>;
  return (
    <NumberField
      hideLabel
      narrow
      label={`${title}, ${side === "min" ? "at least" : "at most"}`}
      unit={turns(channel) ? "°" : "m"}
      decimals={turns(channel) ? 1 : 3}
      step={turns(channel) ? 1 : 0.005}
      value={value / scale}
      onKeep={(v) => void changeChannels([{ channel, [side]: v * scale }])}
    />
  );
}
