import { edit, showHistory, travel } from "../server/session";
import { act, startPicking } from "../stage/picking";
import { startShaping } from "../stage/shaping";
import { look } from "../stage/view";
import { go } from "../state/address";
import { documentOf, STEPS, setState, state } from "../state/store";
import { buildLikeliest, chosenOf, finishLaying, goToStep, groupChosen, makeHome, startLaying } from "../work/building";
import { chosenControls, limitHere } from "../work/channels";
import { deleteKeys, easeKeys, keyControls, letGo, nextPose, play, wiggle, zeroChosen } from "../work/motion";
import { rigging } from "./rigging";

/** Action is something the person can do now: by the search, by its key, or by a button that calls run. */
export interface Action {
  title: string;
  key?: string; // as shown; see match
  why?: string; // why it cannot be done now
  words?: string; // other words that the trade has for it
  run(): void;
}

function removeChosen() {
  const d = documentOf();
  const { chosenKey } = state();
  if (chosenKey) return void deleteKeys(chosenKey.control, chosenKey.frame);
  const joints = chosenOf(d.joints).map((j) => j.id);
  const mechanism = chosenOf(d.mechanisms)[0];
  if (joints.length > 0) void edit({ kind: "delete-joints", joints });
  else if (mechanism) void edit({ kind: "remove-mechanism", mechanism: mechanism.id });
  else if (chosenControls().length > 0)
    void edit({ kind: "delete-controls", controls: chosenControls().map((c) => c.id) });
}

function leave() {
  const s = state();
  if (s.placing) return setState({ placing: undefined });
  if (s.shaping) return startShaping();
  if (s.asking) setState({ asking: undefined });
  else if (s.laying) setState({ laying: undefined });
  else if (s.picking) startPicking();
  else if (s.fitting) setState({ fitting: undefined });
  else if (Object.keys(s.held).length > 0) letGo();
  else if (s.registerOpen) setState({ registerOpen: false });
  else setState({ chosen: [], chosenKey: undefined });
}

/** goToCard takes the keyboard to the first thing on the margin card that can be set. */
function goToCard() {
  const first = document.querySelector<HTMLElement>(
    "aside input:not([aria-label^=Rename]), aside select, aside button, aside [tabindex]",
  );
  first?.focus();
}

/** actions lists what can be done now. */
export function actions(): Action[] {
  const s = state();
  const specimen = s.specimen;
  if (!specimen) return [];
  const d = specimen.document;
  const control = chosenOf(d.controls)[0];
  const list: Action[] = [
    {
      title: "Undo",
      words: "back revert",
      key: "Ctrl+Z",
      why: specimen.undo ? undefined : "there is nothing to undo",
      run: () => void travel("undo"),
    },
    {
      title: "Redo",
      words: "again",
      key: "Ctrl+Shift+Z",
      why: specimen.redo ? undefined : "there is nothing to redo",
      run: () => void travel("redo"),
    },
    { title: s.playing ? "Stop" : "Play", key: "Space", run: () => play() },
    {
      title: "Frame what is chosen, or all",
      words: "focus zoom fit view camera",
      key: "F",
      run: () => void look(undefined, s.chosen),
    },
    { title: "Look from the front", words: "view orthographic camera", key: "Shift+F", run: () => void look("front") },
    { title: "Look from the side", words: "view camera", key: "Shift+S", run: () => void look("side") },
    { title: "Look from the top", words: "view camera plan", key: "Shift+T", run: () => void look("top") },
    { title: "Look in perspective", key: "Shift+P", run: () => void look("perspective") },
    {
      title: "Open the register",
      words: "scene list tree hierarchy find",
      key: "L",
      run: () => setState({ registerOpen: !s.registerOpen }),
    },
    { title: "Search", key: "/", run: () => setState({ searchOpen: true }) },
    { title: "Go to the margin card", words: "field number panel", key: "C", run: goToCard },
    { title: "Show the keys", key: "?", run: () => setState({ helpOpen: true }) },
    { title: "Leave", key: "Escape", run: leave },
    { title: "Delete what is chosen", words: "remove dissolve", key: "Delete", run: removeChosen },
    { title: "Lay a chain", words: "joints bones skeleton draw", key: "J", run: startLaying },
    {
      title: "Show the history",
      words: "versions edits",
      key: "G",
      run: () => (s.history ? setState({ history: undefined }) : void showHistory()),
    },
    {
      title: s.only ? "Edits of copies are for all" : "Edits of copies are for this copy only",
      key: "O",
      why: Object.keys(specimen.origins).length > 0 ? undefined : "there are no copies",
      run: () => setState({ only: !s.only }),
    },
    {
      title: "Pick elements of the model",
      words: "vertices edges faces select",
      key: "E",
      why: d.parts.length > 0 ? undefined : "there is no model",
      run: () => {
        goToStep("model");
        startPicking("faces");
      },
    },
    {
      title: "Wiggle the chosen control",
      words: "test try",
      key: "W",
      why: control ? undefined : "choose a control first",
      run: () => control && wiggle(control.id),
    },
    { title: "Return controls to zero", words: "reset default pose rest", key: "0", run: zeroChosen },
    {
      title: s.keep ? "Let test poses spring back" : "Keep test poses",
      key: "H",
      run: () => setState({ keep: !s.keep }),
    },
    {
      title: "Limit the chosen control where it stands",
      words: "range clamp stops min max",
      key: "M",
      why: control ? undefined : "choose a control first",
      run: () => control && void limitHere(control),
    },
    {
      title: "Make this the home of the chosen controls",
      words: "zero freeze offset rest default",
      key: "Shift+H",
      why: control ? undefined : "choose a control first",
      run: () => void makeHome(chosenControls()),
    },
    {
      title: "Key the chosen controls",
      words: "keyframe animate pose",
      key: "K",
      why: control ? undefined : "choose a control first",
      run: () => void keyControls(chosenOf(d.controls).map((c) => c.id)),
    },
    {
      title: s.chosen.length > 0 ? "Group what is chosen" : "Group the controls by mechanism",
      words: "set collection layer tidy hide lock",
      key: "Shift+G",
      run: () => void groupChosen(),
    },
    {
      title: "Build the likeliest on the chosen joints, or on the chain under the pointer",
      words: "mechanism IK FK spline limb",
      key: "B",
      run: () => void buildLikeliest(),
    },
    {
      title: "Go to the next pose of the clip",
      words: "key range motion test cycle",
      key: "N",
      why: s.clip ? undefined : "choose a clip first; one of the range of motion is made on the skin's card",
      run: () => nextPose(1),
    },
    {
      title: "Go to the pose before",
      words: "key range motion test cycle",
      key: "Shift+N",
      why: s.clip ? undefined : "choose a clip first",
      run: () => nextPose(-1),
    },
    { title: "Wire overlay", words: "wireframe", key: "Shift+W", run: () => setState({ wire: !s.wire }) },
    { title: "Back to the Shelf", words: "home files specimens library", run: () => go("/") },
  ];
  list.push(...rigging());
  if (s.laying) {
    list.push({ title: "Finish the chain", key: "Enter", run: () => void finishLaying() });
    list.push({
      title: "Take back the last joint",
      key: "Backspace",
      run: () => s.laying && setState({ laying: { ...s.laying, places: s.laying.places.slice(0, -1) } }),
    });
  }
  if (s.picking) {
    list.push({ title: "Grow what is picked", key: "+", run: () => void act("grow") });
    list.push({ title: "Shrink what is picked", key: "-", run: () => void act("shrink") });
    list.push({ title: "Pick the ring of edges", key: "R", run: () => void act("ring") });
    list.push({ title: "Pick the loose piece", key: "P", run: () => void act("piece") });
  }
  if (s.chosenKey) {
    const { control, frame } = s.chosenKey;
    for (const ease of ["linear", "smooth", "stepped"])
      list.push({ title: `Go ${ease} from the chosen keys`, run: () => void easeKeys(control, frame, ease) });
  }
  STEPS.forEach((step, i) => {
    list.push({
      title: `Step ${i + 1}: ${step.replace(/^./, (c) => c.toUpperCase())}`,
      key: `${i + 1}`,
      run: () => goToStep(step),
    });
  });
  return list;
}

/** nameOfKey writes a key press as the actions name it. */
function nameOfKey(event: KeyboardEvent): string {
  const key = event.key === " " ? "Space" : event.key.length === 1 ? event.key.toUpperCase() : event.key;
  const shifted = event.shiftKey && (key.length > 1 || /[A-Z]/.test(key));
  return `${event.ctrlKey || event.metaKey ? "Ctrl+" : ""}${shifted ? "Shift+" : ""}${key}`;
}

/** onKey runs the action of a key press, unless the person is typing. */
export function onKey(event: KeyboardEvent) {
  const target = event.target as HTMLElement;
  if (event.key === "Escape" && target.matches?.("input, textarea, select")) {
    requestAnimationFrame(() => target.blur()); // one leaves the field first; only then what else there is to leave
    return;
  }
  const typing = target.matches?.("input:not([type=range]):not([type=checkbox]), textarea, select, [contenteditable]");
  if (typing || state().searchOpen || state().helpOpen) return;
  const pressed = nameOfKey(event);
  if (/^\d$/.test(pressed) && target.matches?.("input[type=range], [role=slider]")) return; // a number meant for the slider
  if (
    (pressed === "Space" || pressed === "Enter") &&
    target.matches?.("button, a, [role=slider], [role=button], summary")
  )
    return;
  const action = actions().find((a) => a.key === pressed);
  if (!action || action.why) return;
  event.preventDefault();
  action.run();
}
