import { api } from "../server/api";
import { attempt, edit, notify, pose } from "../server/session";
import { documentOf, type Step, setState, state, type Vector } from "../state/store";
import type { Control } from "../wire/rig.gen";
import { channelValues } from "./channels";
import { letGo } from "./motion";

/** keptIn is what of the choice a step goes on with: in Model, Skeleton and Skin what these are about, elsewhere all of it. */
function keptIn(step: Step): string[] {
  const { chosen, specimen } = state();
  const d = specimen?.document;
  if (!d || (step !== "model" && step !== "skeleton" && step !== "skin")) return chosen;
  const lists = step === "model" ? [d.parts] : step === "skeleton" ? [d.joints, d.repeats] : [d.parts, d.joints];
  const kept = chosen.filter((id) => lists.some((list) => list.some((t) => t.id === id)));
  return kept.length === chosen.length ? chosen : kept;
}

/** goToStep opens a step; what was begun in another is left. */
export function goToStep(step: Step) {
  setState({
    step,
    chosen: keptIn(step),
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

/** jointMeant is the joint under the pointer, or else the last chosen. */
const jointMeant = () => {
  const { joints } = documentOf();
  return joints.find((j) => j.id === state().hovered) ?? chosenOf(joints).at(-1);
};

/** startLaying begins a chain, from the joint under the pointer or the chosen one when there is one; it is named by where it lies. */
export function startLaying() {
  const onto = jointMeant()?.id;
  goToStep("skeleton");
  setState((s) => ({ laying: { places: [], onto, pattern: "", count: "", mirrored: s.mirrors } }));
}

/** startLayingFor begins to lay places for a kind of mechanism that is built on such: a curve. They snap to nothing but what is under the pointer. */
export function startLayingFor(kind: string) {
  setState({ chosen: [], laying: { places: [], pattern: "", count: "", kind } });
}

/** nameFor is a free name for what is built on a thing: that of its chain, with the kind behind it where that is taken. */
export function nameFor(thing: string, kind: string): string {
  const stem = thing.replace(/[_\-.\s]*\d+$/, "") || "chain";
  const d = documentOf();
  const taken = [d.parts, d.joints, d.controls, d.mechanisms, d.groups, d.repeats].some((list) =>
    list.some((t) => t.name === stem),
  );
  return taken ? `${stem}_${kind.split("-")[0]}` : stem;
}

/** buildLikeliest builds what most likely is meant on the chosen joints, or on the chain of the one under the pointer, as the core offers it. */
export async function buildLikeliest() {
  const { specimen, kinds, hovered } = state();
  const d = documentOf();
  const under = d.joints.find((j) => j.id === hovered);
  const chosen = chosenOf(d.joints);
  const ids = under ? chainOf(under.id) : chosen.length === 1 ? chainOf(chosen[0]?.id ?? "") : chosen.map((j) => j.id);
  if (!specimen || ids.length === 0) return;
  const offers = await attempt(() => api.offers(specimen.id, ids));
  const whole = (kind: string) => kinds.find((k) => k.kind === kind)?.roles.filter((r) => !r.made).length === 1;
  const offer = offers?.find((o) => o.fits && whole(o.kind));
  const kind = kinds.find((k) => k.kind === offer?.kind);
  if (!kind) return notify("refused", offers?.[0]?.why ?? "Nothing can be built on that.");
  const first = d.joints.find((j) => j.id === ids[0]);
  const name = nameFor(first?.name ?? "", kind.kind);
  const over = d.mechanisms.some((m) => m.joints.some((j) => ids.includes(j)));
  const before = new Set(d.mechanisms.map((m) => m.id));
  const made = await edit(
    { kind: "add-mechanism", mechanism: kind.kind, name, joints: ids, blend: over },
    `Building ${name}`,
  );
  const added = made?.document.mechanisms.find((m) => !before.has(m.id));
  if (added) setState({ chosen: [added.id], step: "mechanisms" });
}

/** finishLaying makes the laid joints an edit. */
export async function finishLaying() {
  const laying = state().laying;
  if (!laying || laying.places.length === 0) return setState({ laying: undefined });
  if (laying.kind) return finishLayingFor(laying.kind, laying.places, laying.pattern || laying.kind.replace("-", "_"));
  const before = new Set(documentOf().joints.map((j) => j.id));
  const made = await edit({
    kind: "lay-chain",
    positions: laying.places,
    pattern: laying.pattern,
    parent: laying.onto ?? "",
    count: Number.parseInt(laying.count, 10) || 0,
    mirrored: laying.mirrored,
  });
  if (made)
    setState({ laying: undefined, chosen: made.document.joints.filter((j) => !before.has(j.id)).map((j) => j.id) });
}

async function finishLayingFor(mechanism: string, places: Vector[], name: string) {
  const before = new Set(documentOf().mechanisms.map((m) => m.id));
  const made = await edit({ kind: "add-mechanism", mechanism, name, places });
  const added = made?.document.mechanisms.find((m) => !before.has(m.id));
  if (added) setState({ laying: undefined, chosen: [added.id], step: "mechanisms" });
}

/** chainOf is the chain that a joint is part of, as the core cuts the skeleton into chains. */
export const chainOf = (id: string): string[] =>
  state().specimen?.survey.chains.find((chain) => chain.includes(id)) ?? [id];

/** makeHome makes the place where controls stand their zero, or the one they were built with. Nothing moves. */
export async function makeHome(controls: Control[], built = false) {
  const homes = controls.map((c) => ({ control: c.id, values: channelValues(c).slice(0, 6) }));
  if (await edit({ kind: "make-home", homes, built })) for (const c of controls) letGo(c.id);
}

/** groupChosen makes a group of what is chosen and opens its card, where it is named; with nothing chosen, one for each mechanism. */
export async function groupChosen() {
  if (state().chosen.length === 0) return void edit({ kind: "group-by-mechanism" });
  const made = await edit({ kind: "add-group", name: "group", members: state().chosen });
  const group = made?.document.groups.at(-1);
  if (group) setState({ chosen: [group.id] });
}
