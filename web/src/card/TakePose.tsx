import { edit } from "../server/session";
import { documentOf, useMyriapod } from "../state/store";
import type { Address } from "../wire/rig.gen";
import { letGoOf } from "../work/motion";
import { posedBut } from "../work/posed";
import { nameOfValue } from "../work/values";

/** TakePose has all that is posed by hand answer a number, which stands at a place now. Nothing moves by it. */
export function TakePose({ by, at }: { by: Address; at: number }) {
  const held = useMyriapod((s) => s.held);
  const heldMorphs = useMyriapod((s) => s.heldMorphs);
  const hands = posedBut({ held, heldMorphs }, by);
  const d = documentOf();
  if (hands.length === 0) return null;
  const take = async () => {
    const kept = await edit({ kind: "take-pose", by, at, hands });
    if (kept) for (const hand of hands) letGoOf(hand.drives.of, hand.drives.key);
  };
  return (
    <div className="flex gap-2 items-center">
      <button
        type="button"
        className="action"
        title={hands.map((h) => nameOfValue(d, h.drives)).join(", ")}
        onClick={() => void take()}
      >
        Take the pose
      </button>
      <span className="text-ink-soft">{`${hands.length} ${hands.length === 1 ? "number answers" : "numbers answer"} this, here`}</span>
    </div>
  );
}
