import { useState } from "react";
import { edit } from "../server/session";
import { setState } from "../state/store";
import type { Part } from "../wire/rig.gen";
import { Section } from "./parts";
import { TubeField } from "./TubeField";

/** ShapeTools splits, merges and turns parts, and traces a chain through one that is a tube. */
export function ShapeTools({ parts }: { parts: Part[] }) {
  const [name, setName] = useState(parts[0]?.name ?? "");
  const ids = parts.map((p) => p.id);
  const part = parts[0];
  if (!part) return null;
  const turned = parts.reduce((sum, p) => sum + (p.turned ?? 0), 0);
  return (
    <Section title="Shape">
      <div className="flex flex-wrap gap-2">
        {parts.length === 1 && (
          <button
            type="button"
            className="action"
            onClick={() => void edit({ kind: "split-pieces", part: part.id }, "Splitting")}
          >
            Split loose pieces
          </button>
        )}
        <button
          type="button"
          className="action"
          onClick={() => void edit({ kind: "flip-faces", parts: ids }, "Flipping")}
        >
          Flip faces
        </button>
        {turned > 0 && (
          <button
            type="button"
            className="action action-main"
            onClick={() => void edit({ kind: "turn-faces-out", parts: ids }, "Turning faces")}
          >
            Turn {turned} faces out
          </button>
        )}
      </div>
      {parts.length > 1 && (
        <form
          className="flex gap-2 items-center mt-1.5"
          onSubmit={async (e) => {
            e.preventDefault();
            if (await edit({ kind: "merge-parts", parts: ids, name }, "Merging")) setState({ chosen: [part.id] });
          }}
        >
          <button type="submit" className="action">
            Merge
          </button>
          to
          <input
            aria-label="Name of the merged part"
            className="field grow figure"
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
        </form>
      )}
      {parts.length === 1 && <TubeField part={part} />}
    </Section>
  );
}
