import { edit, pose } from "../server/session";
import { documentOf, type Step, setState, state } from "../state/store";
import type { Control } from "../wire/rig.gen";
import { channelValues } from "./channels";
import { letGo } from "./motion";

/** goToStep opens a step; what was begun in another is left. */
export function goToStep(step: Step) {
  setState({
    step,
    laying: undefined,
    picking: undefined,
    asking: undefined,
    fitting: undefined,
    placing: undefined,
    shaping: undefined,
    playing: step === "model" || step === "skeleton" ? false : state().playing,
  });
  pose();
}

/** chosenOf is what is chosen of a list. */
export const chosenOf = <T extends { id: string }>(list: T[]) =>
  list.filter((thing) => state().chosen.includes(thing.id));

/** startLaying begins a chain, from the chosen joint when there is one, with a pattern of names that is free. */
export function startLaying() {
  const { joints } = documentOf();
  const onto = chosenOf(joints).at(-1)?.id;
  let pattern = "spine_##";
  for (let n = 2; joints.some((j) => j.name.startsWith(pattern.replace(/#+$/, ""))); n++) pattern = `chain${n}_##`;
  goToStep("skeleton");
  setState({ laying: { places: [], onto, pattern, count: "" } });
}

/** finishLaying makes the laid joints an edit. */
export async function finishLaying() {
  const laying = state().laying;
  if (!laying || laying.places.length === 0) return setState({ laying: undefined });
  const before = new Set(documentOf().joints.map((j) => j.id));
  const made = await edit({
    kind: "lay-chain",
    positions: laying.places,
    pattern: laying.pattern,
    parent: laying.onto ?? "",
    count: Number.parseInt(laying.count, 10) || 0,
  });
  if (made)
    setState({ laying: undefined, chosen: made.document.joints.filter((j) => !before.has(j.id)).map((j) => j.id) });
}

/** chainOf is the chain that a joint is part of, as the core cuts the skeleton into chains. */
export const chainOf = (id: string): string[] =>
  state().specimen?.survey.chains.find((chain) => chain.includes(id)) ?? [id];

/** makeHome makes the place where controls stand their zero, or the one they were built with. Nothing moves. */
export async function makeHome(controls: Control[], built = false) {
  const homes = controls.map((c) => ({ control: c.id, values: channelValues(c).slice(0, 6) }));
  if (await edit({ kind: "make-home", homes, built })) for (const c of controls) letGo(c.id);
}

/** groupChosen makes a group of what is chosen and opens its card, where it is named. */
export async function groupChosen() {
  const made = await edit({ kind: "add-group", name: "group", members: state().chosen });
  const group = made?.document.groups.at(-1);
  if (group) setState({ chosen: [group.id] });
}
