import { edit } from "../server/session";
import { useMyriapod } from "../state/store";
import type { Mechanism } from "../wire/rig.gen";
import { clipForKeys, presentFrame } from "../work/motion";
import { nameOf, Section } from "./parts";

/** GiveTools gives what a mechanism holds to another holder at the present frame, in one press. */
export function GiveTools({ mechanism }: { mechanism: Mechanism }) {
  const gives = useMyriapod((s) => s.kinds.find((k) => k.kind === mechanism.kind)?.gives);
  if (!gives) return null;
  const give = async (to: string) => {
    const clip = await clipForKeys();
    if (clip) await edit({ kind: "give", mechanism: mechanism.id, to, clip, frame: presentFrame() }, "Handing over");
  };
  return (
    <Section title="Give it, from this frame on">
      <div className="flex flex-wrap gap-1.5">
        {[...(mechanism.takes ?? []).map((id) => ({ id, name: nameOf(id) })), { id: "", name: "the world" }].map(
          ({ id, name }) => (
            <button
              key={id}
              type="button"
              className="action"
              title={`It stays where it is, and goes with ${name} from here`}
              onClick={() => void give(id)}
            >
              {id ? `Give to ${name}` : "Set it down"}
            </button>
          ),
        )}
      </div>
    </Section>
  );
}
