import type { Document, Group } from "../wire/rig.gen";
import type { Sight } from "./store";
import { state } from "./store";

/** SeenState is how a thing may be seen and touched: by its groups, as the core sums them up, and in the present step. */
export interface SeenState {
  sight: Sight;
  locked: boolean;
  colour?: string;
}

const FREE: SeenState = { sight: "shown", locked: false };

/** seenState tells how a thing is seen now. What is backstage is not seen where animators work. */
export function seenState(id: string): SeenState {
  const s = state();
  const told = s.specimen?.survey.states[id];
  if (!told) return FREE;
  const animating = s.step === "motion" || s.step === "handoff";
  return {
    sight: told.backstage && animating ? "hidden" : (told.sight as Sight),
    locked: !!told.locked,
    colour: told.colour,
  };
}

/** groupsWith lists the groups that any of the things stands in. */
export const groupsWith = (d: Document, ids: string[]): Group[] =>
  d.groups.filter((g) => ids.some((id) => g.members.includes(id)));
