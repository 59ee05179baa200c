import { create } from "zustand";
import type { Frame } from "./live";
import type { Declaration } from "./wire/mechanism.gen";
import type { Declaration as ParameterDeclaration, Set as ParameterSet } from "./wire/parameter.gen";
import type { Channel } from "./wire/rig.gen";
import type { Specimen } from "./wire/wire.gen";

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

/** ChosenKey is a key column chosen in the timeline: all keys of one control at one frame. */
export interface ChosenKey {
  control: string;
  frame: number;
}

export interface State {
  specimen?: Specimen;
  kinds: Declaration[];
  binding: ParameterDeclaration[]; // what a binding takes
  open: boolean; // the live channel
  saving: number; // edits under way
  job?: Job;
  drift?: { text: string; joints: number; vertices: number };
  step: Step;
  chosen: string[]; // IDs
  hovered?: string;
  sights: Record<SightOf, Sight>;
  wire: boolean;
  registerOpen: boolean;
  searchOpen: boolean;
  helpOpen: boolean;
  notices: Notice[];

  held: Record<string, Partial<Record<Channel, number>>>;
  tried: Record<string, ParameterSet>; // by mechanism: what the person is trying out
  adjusted: Record<string, ParameterSet>; // what the core changed along with it
  keep: boolean; // a test pose stays on release
  time: number; // seconds
  playing: boolean;
  clip: string;
  chosenKey?: ChosenKey;
  frame?: Frame;
  raised: { subject: string; text: string }[]; // findings of the present frame

  framed: boolean; // the camera has come to where the whole specimen is seen
  size: number; // diagonal of the specimen at rest, metres
  movingJoint: boolean; // the preview is of a joint being moved, not of a chain being laid
  laying?: { places: Vector[]; centre?: Vector; onto?: string; pattern: string; count: string };
}

export const useMyriapod = create<State>(() => ({
  kinds: [],
  binding: [],
  open: false,
  saving: 0,
  step: "mechanisms",
  chosen: [],
  sights: { model: "shown", skeleton: "shown", controls: "shown", curves: "shown", helpers: "shown" },
  wire: false,
  registerOpen: false,
  searchOpen: false,
  helpOpen: false,
  notices: [],
  held: {},
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

/** documentOf returns the open specimen's document; it is only called where one is open. */
export function documentOf() {
  const specimen = state().specimen;
  if (!specimen) throw new Error("no specimen is open");
  return specimen.document;
}

export const useDocument = () => useMyriapod((s) => s.specimen?.document);
