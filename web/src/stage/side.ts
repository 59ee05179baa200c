import { state } from "../state/store";

export type Side = "L" | "R" | "C";

/** sideOf is the side of the body that a thing is inked for, as the core reads it from its name. */
export const sideOf = (id: string): Side => state().specimen?.survey.sides[id] ?? "C";
