import { edit } from "../server/session";
import { documentOf } from "../state/store";
import type { Declaration } from "../wire/mechanism.gen";
import { Section } from "./parts";

/** PatternTools has all mechanisms of a kind work together by a pattern, such as the steps of all legs by a gait. What it sets is seen on each, and can be changed there. */
export function PatternTools({ kind }: { kind: Declaration }) {
  const count = documentOf().mechanisms.filter((m) => m.kind === kind.kind).length;
  if (!kind.patterns || count < 2) return null;
  return (
    <Section title={`All ${count} together`}>
      <div className="flex flex-wrap gap-1.5">
        {kind.patterns.map((p) => (
          <button
            key={p.name}
            type="button"
            className="action"
            title={p.help}
            onClick={() => void edit({ kind: "lay-pattern", mechanism: kind.kind, pattern: p.name })}
          >
            {p.title}
          </button>
        ))}
      </div>
    </Section>
  );
}
