import { edit } from "../server/session";
import { AS_IT_CAME, documentOf, setState, state } from "../state/store";
import { chainOf, chosenOf, goToStep } from "../work/building";
import { chosenControls } from "../work/channels";
import type { Action } from "./actions";

/** unless says why something cannot be done: nothing, where the condition holds. */
const unless = (holds: boolean, why: string) => (holds ? undefined : why);

/** putAway hides, ghosts or shows what is chosen: parts by themselves, all else as a group. */
async function putAway(sight: "shown" | "ghost" | "hidden") {
  const d = documentOf();
  const parts = chosenOf(d.parts);
  for (const part of parts) await edit({ kind: "change-part", part: part.id, sight });
  const others = state().chosen.filter((id) => !parts.some((p) => p.id === id));
  if (others.length === 0) return;
  const group = d.groups.find((g) => others.every((id) => g.members.includes(id)));
  if (group) await edit({ kind: "change-group", group: group.id, sight });
  else if (sight !== "shown")
    await edit({ kind: "add-group", name: sight === "hidden" ? "hidden" : "ghosts", members: others, sight });
}

/** rigging lists what can be done to the rig with what is chosen, under every word that the trade has for it. */
export function rigging(): (Action & { words: string })[] {
  const d = documentOf();
  const { chosen, only } = state();
  const joints = chosenOf(d.joints);
  const controls = chosenControls();
  const parts = chosenOf(d.parts);
  const needJoints = unless(joints.length > 0, "choose joints first");
  const needControls = unless(controls.length > 0, "choose controls first");
  const needParts = unless(parts.length > 0, "choose parts first");
  const needAny = unless(chosen.length > 0, "choose something first");
  const chain = joints.length > 1 ? joints.map((j) => j.id) : joints[0] ? chainOf(joints[0].id) : [];
  const tops = joints.filter((j) => !joints.some((other) => other.id === j.parent)).map((j) => j.id);
  const channels = controls[0] ? ["moveX", "moveY", "moveZ", "rotateX", "rotateY", "rotateZ"] : [];
  const lock = (locked: boolean, which: string[]) =>
    void edit({
      kind: "change-channels",
      controls: controls.map((c) => c.id),
      changes: which.map((channel) => ({ channel: channel as never, locked, hidden: locked })),
    });
  const moves = channels.slice(0, 3);
  const turns = channels.slice(3);
  return [
    {
      title: "Hide what is chosen",
      words: "visibility off invisible",
      why: needAny,
      run: () => void putAway("hidden"),
    },
    {
      title: "Ghost what is chosen",
      words: "template reference see through transparent",
      why: needAny,
      run: () => void putAway("ghost"),
    },
    { title: "Show what is chosen", words: "visibility on unhide", why: needAny, run: () => void putAway("shown") },
    {
      title: "Lock what is chosen",
      words: "protect freeze read only group",
      why: needAny,
      run: () => void edit({ kind: "add-group", name: "locked", members: chosen, locked: true }),
    },
    {
      title: "Lock and hide the moves of the chosen controls",
      key: "Shift+L",
      words: "translate position channels attributes",
      why: needControls,
      run: () => lock(true, moves),
    },
    {
      title: "Lock and hide the turns of the chosen controls",
      words: "rotate rotation channels attributes",
      why: needControls,
      run: () => lock(true, turns),
    },
    {
      title: "Free all channels of the chosen controls",
      words: "unlock unhide attributes",
      why: needControls,
      run: () => lock(false, channels),
    },
    {
      title: "Mirror what is chosen to the other side",
      key: "Shift+M",
      words: "symmetry reflect flip left right copy repeat duplicate",
      why: needJoints,
      run: () =>
        void edit(
          {
            kind: "add-repeat",
            name: "",
            rule: "mirror",
            sources: tops,
            point: [0, 0, 0],
            through: true,
            direction: [1, 0, 0],
          },
          "Repeating",
        ),
    },
    {
      title: "Turn the chosen chain round",
      words: "reverse flip direction order",
      why: unless(chain.length > 1, "choose a chain first"),
      run: () => void edit({ kind: "reverse-chain", joints: chain }),
    },
    {
      title: "Choose the whole chain",
      words: "select all joints hierarchy",
      why: needJoints,
      run: () => setState({ chosen: joints[0] ? chainOf(joints[0].id) : [] }),
    },
    {
      title: "Orient the chosen chain",
      words: "roll aim axis bone orientation",
      why: unless(chain.length > 1, "choose a chain first"),
      run: () =>
        void edit(
          { kind: "orient-joints", joints: chain, aim: true, second: "carried", direction: [0, 0, 0], roll: 0 },
          "Orienting",
        ),
    },
    {
      title: "Add a control at what is chosen",
      words: "handle null locator offset parent empty helper",
      why: unless(joints.length + controls.length > 0, "choose joints or controls first"),
      run: () => {
        const at = [...joints, ...controls].map((t) => t.id);
        void edit({
          kind: "add-control",
          name: at.length > 1 ? "hold_#" : "hold",
          at,
          shape: "hoop",
          position: [0, 0, 0],
        });
      },
    },
    {
      title: "Build on what is chosen",
      words:
        "mechanism IK FK inverse kinematics spline limb leg arm tentacle tail eyes aim constraint follow parent wheel wave",
      why: unless(chosen.length > 0, "choose joints first"),
      run: () => goToStep("mechanisms"),
    },
    {
      title: "Bind the chosen parts",
      words: "skin weights deform attach",
      why: needParts,
      run: () => goToStep("skin"),
    },
    {
      title: "Unbind the chosen parts",
      words: "skin weights detach",
      why: needParts,
      run: () => void edit({ kind: "unbind", parts: parts.map((p) => p.id) }),
    },
    {
      title: "Set the model on the ground",
      words: "floor zero move place fit size scale orientation facing up",
      why: unless(d.parts.length > 0, "there is no model"),
      run: () => {
        goToStep("model");
        setState({ fitting: { ...AS_IT_CAME, ground: true } });
      },
    },
    {
      title: only ? "Edits of copies: for all again" : "Edits of copies: for the chosen copy only",
      words: "override difference instance own",
      why: undefined,
      run: () => setState({ only: !only }),
    },
    {
      title: "Export",
      words: "GLB glTF file save hand over publish deliver download",
      why: undefined,
      run: () => goToStep("handoff"),
    },
  ];
}
