import { useState } from "react";
import { edit } from "../session";
import { documentOf, setState, useMyriapod } from "../store";
import type { Set as ParameterSet } from "../wire/parameter.gen";
import type { Joint } from "../wire/rig.gen";
import { OptionFields, withDefaults } from "./OptionFields";
import { CardLink, Section } from "./parts";

/** freeName is a name for what is built on a joint: that of its chain, with the kind behind it where that is taken. */
function freeName(joint: string, kind: string): string {
  const stem = joint.replace(/[_\-.\s]*\d+$/, "") || "chain";
  const d = documentOf();
  const taken = [d.parts, d.joints, d.controls, d.mechanisms].some((list) => list.some((t) => t.name === stem));
  return taken ? `${stem}_${kind.split("-")[0]}` : stem;
}

/** BuildTools builds a mechanism on joints: of the kinds that stand on so many, each as the core declares it. Two joints may be the ends of a chain; the core takes what is between. */
export function BuildTools({ joints }: { joints: Joint[] }) {
  const d = documentOf();
  const kinds = useMyriapod((s) => s.kinds).filter(
    (k) => k.stand !== "mechanism" && (k.least <= joints.length || (k.stand === "chain" && joints.length === 2)),
  );
  const [chosen, setChosen] = useState("");
  const [typed, setName] = useState<string>();
  const [options, setOptions] = useState<ParameterSet>({});
  const kind = kinds.find((k) => k.kind === chosen) ?? kinds[0];
  const ids = joints.map((j) => j.id);
  const owner = d.mechanisms.find((m) => m.joints.some((j) => ids.includes(j)));
  const name = typed ?? freeName(joints[0]?.name ?? "", kind?.kind ?? "");
  if (!kind) return null;
  return (
    <Section title="Build on it">
      {owner && <CardLink id={owner.id} what="is placed by" />}
      <form
        className="flex flex-col gap-1.5"
        onSubmit={async (e) => {
          e.preventDefault();
          const before = new Set(d.mechanisms.map((m) => m.id));
          const made = await edit(
            {
              kind: "add-mechanism",
              mechanism: kind.kind,
              name,
              joints: ids,
              options: withDefaults(kind.options, options),
              blend: !!owner,
            },
            `Building ${name}`,
          );
          const added = made?.document.mechanisms.find((m) => !before.has(m.id));
          if (added) setState({ chosen: [added.id], step: "mechanisms" });
        }}
      >
        <label className="flex justify-between">
          Kind
          <select
            className="field"
            value={kind.kind}
            onChange={(e) => {
              setChosen(e.target.value);
              setOptions({});
            }}
          >
            {kinds.map((k) => (
              <option key={k.kind} value={k.kind}>
                {k.title}
              </option>
            ))}
          </select>
        </label>
        <p className="text-ink-soft">{kind.summary}</p>
        <label className="flex justify-between">
          Name{" "}
          <input
            aria-label="Name of what is built"
            className="field w-32 figure"
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
        </label>
        <OptionFields declared={kind.options} values={options} onChange={setOptions} />
        {owner && (
          <p className="text-ink-soft">
            It is laid over {owner.name}: a dial named blend goes from the one (0) to the other (1).
          </p>
        )}
        <button type="submit" className="action action-main self-start">
          Build {kind.title.startsWith("FK") ? kind.title : kind.title.toLowerCase()}
        </button>
      </form>
    </Section>
  );
}
