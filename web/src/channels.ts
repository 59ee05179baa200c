import { edit } from "./session";
import { documentOf, state } from "./store";
import type { ChannelChange } from "./wire/edit.gen";
import type { Channel, ChannelState, Control } from "./wire/rig.gen";

export const CHANNELS: { channel: Channel; title: string }[] = [
  { channel: "moveX", title: "Move X" },
  { channel: "moveY", title: "Move Y" },
  { channel: "moveZ", title: "Move Z" },
  { channel: "rotateX", title: "Rotate X" },
  { channel: "rotateY", title: "Rotate Y (twist)" },
  { channel: "rotateZ", title: "Rotate Z" },
];

export const turns = (channel: Channel) => channel.startsWith("rotate");

export const stateOf = (control: Control, channel: Channel): ChannelState => control.channels?.[channel] ?? {};

/** chosenControls lists the controls that a change on the card of one of them is meant for: all that are chosen. */
export const chosenControls = (): Control[] => documentOf().controls.filter((c) => state().chosen.includes(c.id));

/** changeChannels locks, hides or limits channels of the chosen controls. */
export async function changeChannels(changes: ChannelChange[]): Promise<boolean> {
  const controls = chosenControls().map((c) => c.id);
  return !!(await edit({ kind: "change-channels", controls, changes }));
}

/** limitHere makes the present values of a control the ends of how far its channels go. */
export async function limitHere(control: Control): Promise<boolean> {
  const values = channelValues(control);
  const changes = CHANNELS.flatMap(({ channel }, i): ChannelChange[] => {
    const value = values[i] ?? 0;
    if (Math.abs(value) < 1e-6 || stateOf(control, channel).locked) return [];
    return [value > 0 ? { channel, max: value } : { channel, min: value }];
  });
  return changes.length > 0 && changeChannels(changes);
}

/** channelValues are a control's channels as the stage shows them, to the digits that were typed where that is what it shows. */
export function channelValues(control: Control): number[] {
  const index = documentOf().controls.findIndex((c) => c.id === control.id);
  const shown = state().frame?.controls.subarray(index * 18 + 12, index * 18 + 18);
  const held = state().held[control.id];
  return CHANNELS.map(({ channel }, k) => {
    const value = shown?.[k] ?? 0;
    const exact = held?.[channel];
    return exact !== undefined && Math.fround(exact) === value ? exact : value;
  });
}
