import { create } from "zustand";
import type { Frame } from "../server/live";
import type { Declaration, DriverDeclaration, MeasureDeclaration, Sway } from "../wire/mechanism.gen";
import type { Declaration as ParameterDeclaration, Set as ParameterSet } from "../wire/parameter.gen";
import type { Elements, Picked, Snap } from "../wire/pick.gen";
import type { Channel } from "../wire/rig.gen";
import type { Compare, Entry, Specimen, Tell } from "../wire/wire.gen";

export const STEPS = ["model", "skeleton", "mechanisms", "controls", "skin", "motion", "trials", "handoff"] as const;
export type Step = (typeof STEPS)[number];

export const SIGHTS = ["model", "skeleton", "controls", "curves", "helpers"] as const;
export type SightOf = (typeof SIGHTS)[number];
export type Sight = "shown" | "ghost" | "hidden";

export interface Notice {
  id: number;
  kind: "told" | "refused";
  text: string;
  action?: { title: string; run(): void };
  sways?: Sway[]; // what is loose, to be shown moving as long as the notice stands
}

export interface Vector extends Array<number> {
  0: number;
  1: number;
  2: number;
}

export interface Job {
  id: string;
  title: string;
  share: number;
  stop(): void;
}

/** Picking is the picking of elements of the model. */
export interface Picking {
  part?: string; // the one part that elements are picked of; the others are ghosts meanwhile
  kind: Elements["kind"];
  through: boolean;
  window: boolean; // the next drag draws a rectangle
  picked?: Picked;
  under?: { part: string; elements: number[] }; // what a click would pick
}

/** ChosenKey is a key column chosen in the timeline: all keys of one control at one frame. */
export interface ChosenKey {
  control: string;
  frame: number;
}

/** Shaping is how the outline of a control is being set by hand. */
export interface Shaping {
  control: string;
  move: Vector;
  turn: [number, number, number, number];
  size: number;
}

/** Fitting is how a model is about to be fitted; box is what it takes up as it came. */
export interface Fitting {
  scale: number;
  up: "x" | "y" | "z";
  faces: "z" | "-z" | "x" | "-x";
  ground: boolean;
  move: Vector;
  box?: { min: Vector; max: Vector };
}

/** AS_IT_CAME changes nothing. */
export const AS_IT_CAME: Fitting = { scale: 1, up: "y", faces: "z", ground: false, move: [0, 0, 0] };

/** Hand is what takes hold of a part to shape one of its morph targets. */
export interface Hand {
  part: string;
  morph: string;
  act: string;
  reach: number;
  strength: number;
  mirrored: boolean;
  picked?: number[]; // vertices that it holds wherever it takes hold
}

/** Rims is two rims of a part, by vertices. */
export interface Rims {
  part?: string;
  one?: number[];
  other?: number[];
}

export interface State {
  specimen?: Specimen;
  drivers: DriverDeclaration[];
  measures: MeasureDeclaration[];
  kinds: Declaration[];
  binding: ParameterDeclaration[]; // what a binding takes
  open: boolean; // the live channel
  saving: number; // edits under way
  job?: Job;
  drift?: { text: string; joints: number; turns: number; vertices: number; moved: boolean };
  step: Step;
  chosen: string[]; // IDs
  hovered?: string;
  sights: Record<SightOf, Sight>;
  wire: boolean;
  registerOpen: boolean;
  history?: Entry[]; // shown while it is open
  openLimbs: string[]; // repeated limbs that the map shows unfolded, by their top joints
  only: boolean; // edits of a copy are for that copy alone
  snap: Snap; // what a joint that is moved or laid keeps to
  gridStep: number; // metres
  lock: "" | "x" | "y" | "z"; // the coordinate that stays while joints are moved or laid
  lockAt: number;
  arrived?: string; // a specimen that has just been imported: its size and stand are asked for
  fitting?: Fitting; // how the model is about to be fitted
  picking?: Picking;
  asking?: { role: string; title: string; ids: string[]; pick(id: string): void }; // a role is being filled by clicks: what can be picked is lit
  placing?: { title: string; take(place: Vector): void }; // the next click on the model says a place
  shaping?: Shaping;
  searchOpen: boolean;
  helpOpen: boolean;
  notices: Notice[];
  weighing: "plain" | "one" | "all"; // how the skin shows its weights
  weighedJoint?: string;
  weighed?: Tell["weighed"]; // what the vertex under the pointer goes with
  brush?: {
    stroke: string;
    reach: number;
    strength: number;
    value: number;
    mirrored: boolean;
    through: boolean;
    dual?: boolean; // it paints how much of the dual quaternions holds, and no weights
    locked: string[];
  };
  compare?: Compare; // a part that is shown between two bindings
  shaded?: { part: string; vertices: number[] }; // vertices that are pointed out on the stage

  hand?: Hand; // what shapes a morph target
  rims: Rims; // what is picked of two rims that are to meet

  held: Record<string, Partial<Record<Channel, number>>>;
  heldMorphs: Record<string, Record<string, number>>; // by part and morph target
  tried: Record<string, ParameterSet>; // by mechanism: what the person is trying out
  adjusted: Record<string, ParameterSet>; // what the core changed along with it
  keep: boolean; // a test pose stays on release
  time: number; // seconds
  playing: boolean;
  oneLap?: boolean; // it stops after one time through
  first?: boolean; // somebody is here for the first time
  clip: string;
  chosenKey?: ChosenKey;
  frame?: Frame;
  trace?: { joint: string; drivers: NonNullable<Tell["trace"]> };
  number?: NonNullable<Tell["number"]>; // how the number that is looked at came about
  texts: Record<string, string>; // what the drivers of that number are written as, by ID
  curves: NonNullable<Tell["curves"]>; // what they answer, by ID
  raised: { subject: string; text: string }[]; // findings of the present frame

  framed: boolean; // the camera has come to where the whole specimen is seen
  size: number; // diagonal of the specimen at rest, metres
  movingJoint: boolean; // the preview is of a joint being moved, not of a chain being laid
  // a chain of joints that is laid by clicks, or what a kind of mechanism is built on
  laying?: {
    places: Vector[];
    centre?: Vector;
    onto?: string;
    pattern: string;
    count: string;
    mirrored?: boolean;
    kind?: string;
  };
  mirrors?: boolean; // chains to a side are laid with their mirror images
}

export const useMyriapod = create<State>(() => ({
  kinds: [],
  drivers: [],
  weighing: "plain",
  rims: {},
  measures: [],
  binding: [],
  open: false,
  saving: 0,
  step: "mechanisms",
  chosen: [],
  sights: { model: "shown", skeleton: "shown", controls: "shown", curves: "shown", helpers: "shown" },
  wire: false,
  registerOpen: false,
  searchOpen: false,
  texts: {},
  curves: {},
  helpOpen: false,
  notices: [],
  openLimbs: [],
  only: false,
  snap: "volume",
  gridStep: 0.05,
  lock: "",
  lockAt: 0,
  held: {},
  heldMorphs: {},
  tried: {},
  adjusted: {},
  keep: false,
  time: 0,
  playing: false,
  clip: "",
  raised: [],
  framed: false,
  size: 2,
  movingJoint: false,
}));

export const state = useMyriapod.getState;
export const setState = useMyriapod.setState;

/** handOf is the hand that shapes what is chosen; none while something else is done. */
export const handOf = (s: State): Hand | undefined =>
  s.step === "skin" && !s.picking && s.hand && s.chosen.includes(s.hand.part) ? s.hand : undefined;

/** documentOf returns the open specimen's document; it is only called where one is open. */
export function documentOf() {
  const specimen = state().specimen;
  if (!specimen) throw new Error("no specimen is open");
  return specimen.document;
}

export const useDocument = () => useMyriapod((s) => s.specimen?.document);

const none = {};

/** useOrigins tells of every copy in the open specimen where it comes from. */
export const useOrigins = () => useMyriapod((s) => s.specimen?.origins ?? none) as Specimen["origins"];
