import { edit } from "../server/session";
import { documentOf, setState, useMyriapod } from "../state/store";
import { startLayingFor } from "../work/building";
import { Section } from "./parts";

/** WholeTools builds what is of the whole specimen, with nothing chosen: what it stands on, how its body settles there, and curves that are laid by clicks. */
export function WholeTools() {
  const kinds = useMyriapod((s) => s.kinds);
  const d = documentOf();
  const missing = kinds.filter((k) => k.whole && !d.mechanisms.some((m) => m.kind === k.kind));
  const laid = kinds.filter((k) => k.laid);
  return (
    <Section title="For the whole specimen">
      {laid.map((kind) => (
        <p key={kind.kind} className="flex gap-2 items-start py-0.5">
          <button type="button" className="action shrink-0" onClick={() => startLayingFor(kind.kind)}>
            Lay it by clicks
          </button>
          <span className="text-ink-soft">{kind.summary}</span>
        </p>
      ))}
      {missing.map((kind) => (
        <p key={kind.kind} className="flex gap-2 items-start py-0.5">
          <button
            type="button"
            className="action shrink-0"
            onClick={async () => {
              const made = await edit({ kind: "add-mechanism", mechanism: kind.kind, name: kind.kind });
              const added = made?.document.mechanisms.find((m) => !d.mechanisms.some((b) => b.id === m.id));
              if (added) setState({ chosen: [added.id] });
            }}
          >
            Add {kind.called}
          </button>
          <span className="text-ink-soft">{kind.summary}</span>
        </p>
      ))}
    </Section>
  );
}
