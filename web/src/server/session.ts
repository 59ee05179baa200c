import { isFirstRun } from "../state/address";
import { AS_IT_CAME, type Notice, setState, state } from "../state/store";
import { DEGREE, length } from "../text/numbers";
import type { Change } from "../wire/edits.gen";
import type { Address } from "../wire/rig.gen";
import type { Brushed, BrushedDual, Held, HeldMorph, Pull, Sculpting, Specimen, Tell } from "../wire/wire.gen";
import { api, type Brought, Refusal } from "./api";
import { meant } from "./asking";
import { type Aim, Live } from "./live";

let live: Live | undefined;
let noticeCount = 0;
const centreWaiters = new Map<number, (centre?: [number, number, number]) => void>();

/** notify shows a notice until it is closed or, for good news, for a while. */
export function notify(kind: Notice["kind"], text: string, action?: Notice["action"], sways?: Notice["sways"]) {
  const id = ++noticeCount;
  setState((s) => ({
    notices: [...s.notices.filter((n) => n.text !== text).slice(-3), { id, kind, text, action, sways }],
  }));
  setTimeout(() => dismiss(id), kind === "told" ? 7000 : 20000);
}

export const dismiss = (id: number) => setState((s) => ({ notices: s.notices.filter((n) => n.id !== id) }));

/** attempt runs work and shows the server's refusal in its own words. It returns undefined after one. */
export async function attempt<T>(work: () => Promise<T>): Promise<T | undefined> {
  try {
    return await work();
  } catch (error) {
    const stopped = error instanceof Refusal && error.body.kind === "stopped";
    const mend = error instanceof Refusal ? error.body.mend : undefined;
    notify(
      stopped ? "told" : "refused",
      (error as Error).message,
      mend && { title: mend.title, run: () => void edit(mend.edit as Change) },
      mend?.sways,
    );
    return undefined;
  }
}

function accept(specimen: Specimen) {
  const known = state().specimen;
  if (known && known.id === specimen.id && known.sequence > specimen.sequence) return;
  const ids = new Set<string>();
  const d = specimen.document;
  for (const list of [d.parts, d.joints, d.controls, d.mechanisms, d.clips, d.repeats, d.drivers, d.measures, d.groups])
    for (const thing of list) ids.add(thing.id);
  setState((s) => ({
    specimen,
    chosen: s.chosen.every((id) => ids.has(id)) ? s.chosen : s.chosen.filter((id) => ids.has(id)),
    clip: d.clips.some((c) => c.id === s.clip) ? s.clip : (d.clips[0]?.id ?? ""),
  }));
}

/** openSpecimen loads a specimen and opens its live channel. */
export async function openSpecimen(id: string) {
  closeSpecimen();
  const specimen = await attempt(() => api.specimen(id));
  if (!specimen) return;
  if (state().kinds.length === 0) {
    const kinds = await attempt(api.kinds);
    if (kinds)
      setState({ kinds: kinds.kinds, drivers: kinds.drivers, measures: kinds.measures, binding: kinds.binding });
  }
  const first = specimen.document.mechanisms.length > 0 && isFirstRun();
  setState({
    chosen: [],
    held: {},
    heldMorphs: {},
    openLimbs: [],
    picking: undefined,
    fitting: state().arrived === id && specimen.document.parts.length > 0 ? AS_IT_CAME : undefined,
    history: undefined,
    only: false,
    tried: {},
    adjusted: {},
    time: 0,
    frame: undefined,
    drift: undefined,
    laying: undefined,
    raised: [],
    chosenKey: undefined,
    step:
      state().arrived === id
        ? "model"
        : specimen.document.mechanisms.length > 0
          ? "mechanisms"
          : specimen.document.parts.length > 0
            ? "skeleton"
            : "model",
    playing: first && !matchMedia("(prefers-reduced-motion: reduce)").matches,
    oneLap: true, // what moves unasked comes to rest
    first,
    arrived: undefined,
  });
  accept(specimen);
  live = new Live(id, {
    frame: (frame) => {
      setState({ frame });
      if (frame.goesOn && !state().playing) requestAnimationFrame(() => pose());
    },
    tell: hear,
    state: (open) => {
      setState({ open });
      if (open) void reload();
    },
  });
  pose();
}

export function closeSpecimen() {
  live?.close();
  live = undefined;
  setState({ specimen: undefined, open: false, playing: false, frame: undefined });
}

async function reload() {
  const open = state().specimen;
  if (!open) return;
  const specimen = await attempt(() => api.specimen(open.id));
  if (specimen && state().specimen?.id === specimen.id) {
    accept(specimen);
    pose();
  }
}

function hear(tell: Tell) {
  switch (tell.type) {
    case "changed":
      if (state().history) void showHistory();
      if ((tell.sequence ?? 0) > (state().specimen?.sequence ?? 0) && state().saving === 0) void reload();
      else pose();
      break;
    case "centre":
      centreWaiters.get(tell.seq ?? 0)?.(tell.centre);
      centreWaiters.delete(tell.seq ?? 0);
      break;
    case "trace":
      setState({ trace: { joint: tell.joint ?? "", drivers: tell.trace ?? [] } });
      break;
    case "number":
      setState({ number: tell.number, texts: tell.texts ?? {}, curves: tell.curves ?? {} });
      break;
    case "weighed":
      setState({ weighed: tell.weighed });
      break;
    case "painted":
      painted?.(tell.painted);
      break;
    case "sculpted":
      sculpted?.(tell.sculpted);
      break;
    case "posed":
      take(tell);
      break;
    case "findings":
      setState({ raised: tell.findings ?? [] });
      break;
    case "parameters":
      if (tell.mechanism) {
        const id = tell.mechanism;
        setState((s) => ({ adjusted: { ...s.adjusted, [id]: tell.parameters ?? {} } }));
      }
      break;
    case "progress":
      setState((s) => (s.job && s.job.id === tell.job ? { job: { ...s.job, share: tell.share ?? 0 } } : {}));
      break;
    case "error":
      painted?.(undefined);
      sculpted?.(undefined);
      notify("refused", tell.message ?? "The live channel reported an error.");
  }
}

/** take holds the channels that the core found, and tells how far they miss what they were found for. */
function take(tell: Tell) {
  setState((s) => {
    const held = { ...s.held };
    for (const { control, channel, value } of tell.values ?? []) held[control] = { ...held[control], [channel]: value };
    return { held };
  });
  pose();
  if (tell.left) notify("told", missOf(tell.left));
}

/** missOf says how far a mechanism that took charge misses what was seen before. */
const missOf = (left: NonNullable<Tell["left"]>) =>
  `No joint is further than ${length(left.moves)} and ${(left.turns / DEGREE).toFixed(2)}° from where it was, and no vertex further than ${length(left.vertices)}.${
    left.girth > 1e-6
      ? ` Girths change by up to ${(100 * left.girth).toFixed(1)} %, which its controls do not hold: mind the skin there.`
      : ""
  }`;

/** restShown tells whether the stage shows the rest pose: while the model and skeleton are shaped, and while elements of the model are picked. */
export const restShown = () => state().step === "model" || state().step === "skeleton" || !!state().picking;

let lastPull: Pull | undefined;

/** pose asks the core for the stage as the page's state has it. */
export function pose(pull: Pull | undefined = lastPull) {
  const s = state();
  if (!live || !s.specimen) return;
  lastPull = pull;
  const channels: Record<string, Held[]> = {};
  for (const [control, values] of Object.entries(s.held)) {
    channels[control] = Object.entries(values).map(([channel, value]) => ({ channel, value: value as number }));
  }
  const morphs: Record<string, HeldMorph[]> = {};
  for (const [part, values] of Object.entries(s.heldMorphs)) {
    morphs[part] = Object.entries(values).map(([morph, value]) => ({ morph, value }));
  }
  live.pose({
    time: s.time,
    now: performance.now() / 1000,
    rest: restShown(),
    clip: s.clip,
    channels,
    morphs,
    parameters: s.tried,
    pull,
    compare: s.compare,
  } as Parameters<Live["pose"]>[0]);
}

export const endPull = () => {
  lastPull = undefined;
};

let painted: ((painted?: Tell["painted"]) => void) | undefined;

/** hearPainted has what dabs change, or nothing where one was refused, told to who paints. */
export const hearPainted = (hear: typeof painted) => {
  painted = hear;
};

/** weighUnder asks what the vertex of a part under a ray goes with. */
export const weighUnder = (part: string, origin: [number, number, number], direction: [number, number, number]) =>
  live?.weigh(part, origin, direction);

/** paintDab asks the core to put a brush where a ray meets the part as it is posed. */
export function paintDab(
  paint: Brushed | undefined,
  paintDual: BrushedDual | undefined,
  begin: boolean,
  origin: [number, number, number],
  direction: [number, number, number],
  press: number, // 0 where the device does not say
) {
  if (live) live.paint(paint, paintDual, begin, origin, direction, press);
  else painted?.(undefined);
}

let sculpted: ((sculpted?: Tell["sculpted"]) => void) | undefined;

/** hearSculpted has what a hand does, or nothing where it was refused, told to who sculpts. */
export const hearSculpted = (hear: typeof sculpted) => {
  sculpted = hear;
};

/** sculptAt takes hold of a morph target where a ray meets its part, or brings the hand there. */
export function sculptAt(stroke: Sculpting, begin: boolean, origin: Vector, direction: Vector, facing: Vector) {
  if (live) live.sculpt(stroke, begin, origin, direction, facing);
  else sculpted?.(undefined);
}

/** endSculpting has the core let go of what a hand holds. */
export const endSculpting = () => live?.letGo();

type Vector = [number, number, number];

/** seek asks the core for the place that an aim leads to. */
export function seek(aim: Aim, then: (place?: [number, number, number]) => void) {
  if (live) {
    centreWaiters.clear();
    centreWaiters.set(live.seek(aim), then);
  }
}

/**
 * longWork runs work that may take long: once it does, its progress shows with a button that stops it. The work is told the
 * name under which the server reports progress.
 */
export async function longWork<T>(
  title: string,
  work: (signal: AbortSignal, job: string) => Promise<T>,
): Promise<T | undefined> {
  const abort = new AbortController();
  const id = Math.random().toString(36).slice(2);
  setState((s) => ({ saving: s.saving + 1 }));
  const slow = setTimeout(() => setState({ job: { id, title, share: 0, stop: () => abort.abort() } }), 400);
  const answer = await attempt(() => work(abort.signal, id));
  clearTimeout(slow);
  setState((s) => ({ saving: s.saving - 1, job: s.job?.id === id ? undefined : s.job }));
  return answer;
}

/** askMatch has a mechanism take charge of its joints; its controls come to where they stand. */
export const askMatch = (mechanism: string) => live?.match(mechanism);

/** askSwitch hangs a control on another of its spaces, or has it follow something else by another dial; it stays where it stands. */
export const askSwitch = (control: string, value: number, dial?: string) => live?.switchSpace(control, value, dial);

/** askNumber asks the core how a number comes about now. */
export const askNumber = (number: Address) => live?.traceNumber(number);

/** askTrace asks the core what moves a joint now. */
export const askTrace = (joint: string) => live?.trace(joint);

/** edit sends an edit. Building edits show the drift they caused. */
export function edit(change: Change, title = "Working"): Promise<Specimen | undefined> {
  return inTurn(() => editNow(change, title));
}

let turnsBefore: Promise<unknown> = Promise.resolve();

/** inTurn does an edit or a step in the history after those before it: it is meant for what they leave behind. */
function inTurn<T>(act: () => Promise<T>): Promise<T | undefined> {
  const id = state().specimen?.id;
  const done = turnsBefore.then(() => (state().specimen?.id === id ? act() : undefined));
  turnsBefore = done.catch(() => undefined);
  return done;
}

async function editNow(change: Change, title: string): Promise<Specimen | undefined> {
  const specimen = state().specimen;
  if (!specimen) return undefined;
  const sent = meant(change);
  const before = state().notices;
  const answer = await longWork(title, (signal, job) => api.edit(specimen.id, specimen.revision, sent, job, signal));
  if (!answer) {
    void reload();
    return undefined;
  }
  accept(answer);
  // What was refused before is past: the person has tried otherwise, or gone on.
  setState((s) => ({ notices: s.notices.filter((n) => n.kind !== "refused" || !before.includes(n)) }));
  if (answer.drift)
    setState({ drift: { text: `since ${answer.undo.replace(/^./, (c) => c.toLowerCase())}`, ...answer.drift } });
  taken(answer);
  return answer;
}

/** taken does what every answer to an edit needs: what it tells is told, the stage and the history are brought up to it. */
function taken(answer: Specimen) {
  for (const note of (answer.notes ?? []).slice(0, 3)) notify("told", note);
  if ((answer.notes?.length ?? 0) > 3)
    notify("told", `… and ${(answer.notes?.length ?? 0) - 3} more remarks like these.`);
  pose();
  if (state().history) void showHistory();
}

/** importParts adds the parts of a file to the open specimen. */
export async function importParts(brought: Brought) {
  const specimen = state().specimen;
  if (!specimen) return;
  const answer = await longWork(`Reading ${brought.main.file.name}`, (signal) =>
    api.importInto(specimen.id, specimen.revision, brought, signal),
  );
  if (answer) {
    accept(answer);
    taken(answer);
    setState({ fitting: AS_IT_CAME, chosen: [] });
  }
}

/** showHistory opens the history, or brings it up to date. */
export async function showHistory() {
  const specimen = state().specimen;
  if (!specimen) return;
  const history = await attempt(() => api.history(specimen.id));
  if (history) setState({ history });
}

/** goTo makes any edit of the history the present one. */
export const goTo = (revision: number, title: string) =>
  inTurn(() => journey((id, on) => api.goTo(id, on, revision), `Now at: ${title}`));

/** travel steps back or forward in the history. */
export function travel(way: "undo" | "redo") {
  return inTurn(async () => {
    const title = state().specimen?.[way];
    await journey((id, on) => api[way](id, on), way === "undo" ? `Taken back: ${title}` : `Done again: ${title}`);
  });
}

async function journey(go: (id: string, on: number) => Promise<Specimen>, told: string) {
  const specimen = state().specimen;
  if (!specimen) return;
  setState((s) => ({ saving: s.saving + 1 }));
  const answer = await attempt(() => go(specimen.id, specimen.revision));
  setState((s) => ({ saving: s.saving - 1 }));
  if (answer) {
    setState({ held: {}, tried: {}, adjusted: {}, drift: undefined, picking: undefined });
    accept(answer);
    notify("told", told);
    taken(answer);
  }
}

/** moment is the shown time of the shown clip: what turns by a rate goes on from where it is then when the rate is changed. */
export const moment = () => ({ time: state().time, clip: state().clip || undefined });

/** keepTried makes the parameters being tried an edit. */
export async function keepTried(mechanism: string) {
  const tried = state().tried[mechanism];
  if (!tried || Object.keys(tried).length === 0) return;
  const values = { ...state().adjusted[mechanism], ...tried };
  await edit({ kind: "set-parameters", mechanism, values, ...moment() });
  setState((s) => {
    const { [mechanism]: _, ...tried } = s.tried;
    const { [mechanism]: __, ...adjusted } = s.adjusted;
    return { tried, adjusted };
  });
  pose();
}
