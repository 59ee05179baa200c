import { edit } from "../server/session";
import { documentOf, setState, useMyriapod } from "../state/store";
import { Section } from "./parts";

/** WholeTools builds what is of the whole specimen, with nothing chosen: what it stands on, and how its body settles there. */
export function WholeTools() {
  const kinds = useMyriapod((s) => s.kinds);
  const d = documentOf();
  const missing = kinds.filter((k) => k.whole && !d.mechanisms.some((m) => m.kind === k.kind));
  if (missing.length === 0) return null;
  return (
    <Section title="For the whole specimen">
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
