import { edit } from "../server/session";
import { documentOf, state } from "../state/store";
import { DEGREE } from "../text/numbers";
import type { ChannelChange } from "../wire/edit.gen";
import type { Channel, ChannelState, Control, Dial } from "../wire/rig.gen";

export const CHANNELS: { channel: Channel; title: string }[] = [
  { channel: "moveX", title: "Move X" },
  { channel: "moveY", title: "Move Y" },
  { channel: "moveZ", title: "Move Z" },
  { channel: "rotateX", title: "Rotate X" },
  { channel: "rotateY", title: "Rotate Y (twist)" },
  { channel: "rotateZ", title: "Rotate Z" },
];

export const turns = (channel: Channel) => channel.startsWith("rotate");

/** Row is a channel or dial of a control as it is shown: a number shown is the channel's value divided by scale. */
export interface Row {
  channel: Channel;
  title: string;
  unit: string;
  scale: number;
  decimals: number;
  step: number; // shown, per pixel dragged
  rest: number; // its value at rest
  dial?: Dial;
}

const row = ({ channel, title }: (typeof CHANNELS)[number]): Row =>
  turns(channel)
    ? { channel, title, unit: "°", scale: DEGREE, decimals: 1, step: 1, rest: 0 }
    : { channel, title, unit: "m", scale: 1, decimals: 3, step: 0.005, rest: 0 };

/** rowsOf lists the channels of a control, then its dials. */
export const rowsOf = (control: Control): Row[] => [
  ...CHANNELS.map(row),
  ...(control.dials ?? []).map((dial) => ({
    channel: dial.name,
    title: dial.name,
    unit: dial.unit ?? "",
    scale: 1,
    decimals: dial.unit === "°" ? 1 : 3,
    step: (dial.max - dial.min) / 400,
    rest: dial.default,
    dial,
  })),
];

export const stateOf = (control: Control, channel: Channel): ChannelState => control.channels?.[channel] ?? {};

/** chosenControls lists the controls that a change on the card of one of them is meant for: all that are chosen. */
export const chosenControls = (): Control[] => documentOf().controls.filter((c) => state().chosen.includes(c.id));

/** changeChannels locks, hides or limits channels of the chosen controls. */
export async function changeChannels(changes: ChannelChange[]): Promise<boolean> {
  const controls = chosenControls().map((c) => c.id);
  return !!(await edit({ kind: "change-channels", controls, changes }));
}

/** valuesOf is what the channels and dials of a control say, by name. */
export const valuesOf = (control: Control): Record<string, number> => {
  const values = channelValues(control);
  return Object.fromEntries(rowsOf(control).map(({ channel, rest }, k) => [channel, values[k] ?? rest]));
};

/** limitHere makes the present values of a control the ends of how far the channels of the chosen ones go. */
export const limitHere = (control: Control) =>
  edit({ kind: "limit-here", controls: chosenControls().map((c) => c.id), values: valuesOf(control) });

/** dialsBefore is how many dials stand in a frame before those of a control. */
export const dialsBefore = (controls: Control[], index: number) =>
  controls.slice(0, index).reduce((sum, c) => sum + (c.dials?.length ?? 0), 0);

/** channelValues are a control's channels, then its dials, as the stage shows them, to the digits that were typed where that is what it shows. */
export function channelValues(control: Control): number[] {
  const { controls } = documentOf();
  const index = controls.findIndex((c) => c.id === control.id);
  const before = dialsBefore(controls, index);
  const { frame, held } = state();
  return rowsOf(control).map(({ channel, rest }, k) => {
    const shown =
      k < CHANNELS.length ? frame?.controls[index * 18 + 12 + k] : frame?.dials[before + k - CHANNELS.length];
    const value = shown ?? rest;
    const exact = held[control.id]?.[channel];
    return exact !== undefined && Math.fround(exact) === value ? exact : value;
  });
}
