import { edit, notify, pose, restShown } from "../server/session";
import { documentOf, setState, state } from "../state/store";
import type { Channel } from "../wire/rig.gen";
import { CHANNELS, chosenControls, rowsOf, stateOf, turns, valuesOf } from "./channels";

let running = false;
let last = 0;

/** span is the stretch of time that plays, in seconds: the clip's, or ten seconds without one. */
export function span(): { start: number; end: number; loop: boolean } {
  const d = documentOf();
  const clip = d.clips.find((c) => c.id === state().clip);
  if (!clip) return { start: 0, end: 10, loop: true };
  return { start: clip.start / d.fps, end: clip.end / d.fps, loop: clip.loop };
}

/** play starts or stops the motion. */
export function play(on = !state().playing) {
  if (!state().specimen) return;
  if (on && restShown()) setState({ step: state().picking ? state().step : "mechanisms", picking: undefined });
  if (on && state().time >= span().end) setState({ time: span().start });
  setState({ playing: on, oneLap: false });
  run();
}

/** run keeps the clock going while the motion plays. */
export function run() {
  if (running || !state().playing) return;
  running = true;
  last = performance.now();
  requestAnimationFrame(tick);
}

function tick(now: number) {
  running = state().playing && !!state().specimen;
  if (!running) return;
  const { start, end, loop } = span();
  let time = state().time + Math.min(0.25, (now - last) / 1000);
  last = now;
  if (time > end) {
    if (state().oneLap) {
      running = false;
      setState({ playing: false, time: start });
      pose();
      return;
    }
    time = loop && end > start ? start + ((time - start) % (end - start)) : end;
    if (!loop) setState({ playing: false });
  }
  setState({ time });
  pose();
  requestAnimationFrame(tick);
}

/** scrub moves to a frame. */
export function scrub(frame: number) {
  setState({ time: frame / documentOf().fps, playing: false });
  pose();
}

/** nextPose goes to the next frame of the clip that something is keyed at, or to the one before, round its ends. */
export function nextPose(by: 1 | -1) {
  const clip = documentOf().clips.find((c) => c.id === state().clip);
  const tracks = [...(clip?.tracks ?? []), ...(clip?.jointTracks ?? []), ...(clip?.morphTracks ?? [])];
  const frames = [...new Set(tracks.flatMap((t) => t.keys.map((k) => k.frame)))].sort((a, b) => a - b);
  const now = presentFrame();
  const next =
    by > 0
      ? (frames.find((f) => f > now + 0.5) ?? frames[0])
      : (frames.findLast((f) => f < now - 0.5) ?? frames[frames.length - 1]);
  if (next !== undefined) scrub(next);
}

export const presentFrame = () => Math.round(state().time * documentOf().fps);

/** hold gives a control's channels values until they are let go. */
export function hold(control: string, values: Partial<Record<Channel, number>>) {
  setState((s) => ({ held: { ...s.held, [control]: { ...s.held[control], ...values } } }));
  pose();
}

/** holdMorph mixes in so much of a part's morph target. */
export function holdMorph(part: string, morph: string, value: number) {
  setState((s) => ({ heldMorphs: { ...s.heldMorphs, [part]: { ...s.heldMorphs[part], [morph]: value } } }));
  pose();
}

/** letGoOf drops the held value of one number of a control or part. */
export function letGoOf(of: string, key: string) {
  setState((s) => {
    const { [key as Channel]: _, ...channels } = s.held[of] ?? {};
    const { [key]: __, ...morphs } = s.heldMorphs[of] ?? {};
    return {
      held: of in s.held ? { ...s.held, [of]: channels } : s.held,
      heldMorphs: of in s.heldMorphs ? { ...s.heldMorphs, [of]: morphs } : s.heldMorphs,
    };
  });
  pose();
}

/** letGo drops held values of a control, or of all, at once. */
export function letGo(control?: string) {
  setState((s) => {
    if (!control) return { held: {}, heldMorphs: {} };
    const { [control]: _, ...held } = s.held;
    return { held };
  });
  pose();
}

/** zeroChosen returns the chosen controls to zero, or all of them when none is chosen. */
export function zeroChosen() {
  const chosen = chosenControls();
  if (chosen.length === 0) return letGo();
  for (const control of chosen) letGo(control.id);
}

/** glideHome lets a control spring back to where it belongs, unless test poses are kept or motion is being made. */
export function glideHome(control: string) {
  if (state().keep || state().step === "motion") return;
  const from = { ...state().held[control] };
  const asked = documentOf().controls.find((c) => c.id === control);
  const rest = Object.fromEntries((asked ? rowsOf(asked) : []).map((row) => [row.channel, row.rest]));
  const began = performance.now();
  const still = matchMedia("(prefers-reduced-motion: reduce)").matches;
  const glide = (now: number) => {
    const held = state().held[control];
    if (!held) return;
    const share = still ? 1 : Math.min(1, (now - began) / 260);
    if (share === 1) return letGo(control);
    const left = (1 - share) ** 3;
    hold(
      control,
      Object.fromEntries(
        Object.entries(from).map(([k, v]) => [k, (rest[k] ?? 0) + ((v as number) - (rest[k] ?? 0)) * left]),
      ),
    );
    requestAnimationFrame(glide);
  };
  requestAnimationFrame(glide);
}

// A wiggle takes so many milliseconds, and goes on by no more than this from one picture to the next.
const WIGGLE = 1400;
const SLOWEST = 140;

/** wiggle sends a control through its range and back, by a movement and a turn that are not locked. */
export function wiggle(control: string) {
  const asked = documentOf().controls.find((c) => c.id === control);
  if (!asked) return;
  const free = CHANNELS.map((c) => c.channel).filter((channel) => !stateOf(asked, channel).locked);
  const move = free.find((channel) => !turns(channel));
  const turn = free.includes("rotateY") ? "rotateY" : free.find(turns);
  if (!move && !turn) return notify("told", `Every channel of ${asked.name} is locked.`);
  const frame = state().frame;
  const size = frame ? 0.08 * stageSize() : 0.1;
  const before = { ...state().held[control] };
  let share = 0;
  let seen = 0;
  const step = (now: number) => {
    // However slowly pictures come, it goes through its range in steps that are seen.
    share += Math.min(SLOWEST, seen > 0 ? now - seen : 0) / WIGGLE;
    seen = now;
    if (share >= 1) {
      letGo(control);
      if (Object.keys(before).length > 0) hold(control, before);
      return;
    }
    const swing = Math.sin(2 * Math.PI * share);
    const moves = share < 0.5 ? size * Math.sin(4 * Math.PI * share) : 0;
    hold(control, { ...(move ? { [move]: moves } : {}), ...(turn && share >= 0.5 ? { [turn]: -swing } : {}) });
    requestAnimationFrame(step);
  };
  requestAnimationFrame(step);
}

/** stageSize is the diagonal of the joints at rest, in metres. */
export function stageSize(): number {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (const { position } of documentOf().joints) {
    for (let k = 0; k < 3; k++) {
      low[k] = Math.min(low[k] ?? 0, position[k] ?? 0);
      high[k] = Math.max(high[k] ?? 0, position[k] ?? 0);
    }
  }
  const size = Math.hypot(...low.map((v, k) => (high[k] ?? 0) - v));
  return Number.isFinite(size) && size > 0 ? size : 1;
}

/** clipForKeys returns the clip that keys go to, and makes one when there is none. */
export async function clipForKeys(): Promise<string | undefined> {
  if (state().clip) return state().clip;
  const made = await edit({ kind: "add-clip", name: "clip", start: 0, end: 48, loop: true });
  return made?.document.clips.at(-1)?.id;
}

/** keyControls keys the channels of controls as they stand at the present frame. */
export async function keyControls(controls: string[], ease: string = "smooth") {
  const frame = state().frame;
  const d = documentOf();
  const clip = await clipForKeys();
  if (!frame || !clip) return;
  const poses = d.controls
    .filter((c) => controls.includes(c.id))
    .map((control) => ({ control: control.id, values: valuesOf(control) }));
  if (poses.length > 0 && (await edit({ kind: "key-pose", clip, frame: presentFrame(), ease, poses }))) {
    for (const control of controls) letGo(control);
  }
}

/** keysAt lists the keys of a control at a frame. */
export function keysAt(control: string, frame: number) {
  const clip = documentOf().clips.find((c) => c.id === state().clip);
  return (clip?.tracks ?? [])
    .filter((t) => t.control === control)
    .flatMap((t) =>
      t.keys.filter((k) => Math.abs(k.frame - frame) < 1e-3).map((k) => ({ ...k, control, channel: t.channel })),
    );
}

export async function deleteKeys(control: string, frame: number) {
  const keys = keysAt(control, frame).map(({ channel }) => ({ control, channel, frame }));
  if (keys.length > 0 && (await edit({ kind: "delete-keys", clip: state().clip, keys })))
    setState({ chosenKey: undefined });
}

export async function moveKeys(control: string, frame: number, by: number) {
  const keys = keysAt(control, frame).map(({ channel }) => ({ control, channel, frame }));
  if (keys.length > 0 && by !== 0 && (await edit({ kind: "move-keys", clip: state().clip, keys, by }))) {
    setState({ chosenKey: { control, frame: frame + by } });
  }
}

export async function easeKeys(control: string, frame: number, ease: string) {
  const keys = keysAt(control, frame).map((k) => ({ control, channel: k.channel, frame, value: k.value, ease }));
  if (keys.length > 0) await edit({ kind: "set-keys", clip: state().clip, keys });
}
