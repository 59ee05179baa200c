import { useState } from "react";
import { edit } from "../server/session";
import { documentOf, setState, useMyriapod } from "../state/store";
import type { Declaration, Role } from "../wire/mechanism.gen";
import type { Set as ParameterSet } from "../wire/parameter.gen";
import { OptionFields, withDefaults } from "./OptionFields";
import { CardLink, Section } from "./parts";
import { RoleField } from "./RoleField";

/** freeName is a name for what is built on a thing: that of its chain, with the kind behind it where that is taken. */
function freeName(thing: string, kind: string): string {
  const stem = thing.replace(/[_\-.\s]*\d+$/, "") || "chain";
  const d = documentOf();
  const taken = [d.parts, d.joints, d.controls, d.mechanisms].some((list) => list.some((t) => t.name === stem));
  return taken ? `${stem}_${kind.split("-")[0]}` : stem;
}

const asked = (kind: Declaration): Role[] => kind.roles.filter((r) => !r.made);

/** suits tells whether what is chosen can stand in the first role that a kind asks for. */
function suits(kind: Declaration, ids: string[]): boolean {
  const first = asked(kind)[0];
  if (kind.stand === "mechanism" || !first) return false;
  const d = documentOf();
  const fits = (id: string) =>
    (first.joints && d.joints.some((j) => j.id === id)) ||
    (first.controls && d.controls.some((c) => c.id === id)) ||
    (first.parts && d.parts.some((p) => p.id === id));
  const enough = first.least <= ids.length || (first.chain && ids.length === 2);
  return ids.every(fits) && enough && (first.most === 0 || ids.length <= first.most);
}

/** BuildTools builds a mechanism on what is chosen, which stands in the first role of its kind; the other roles are asked for one by one. Two joints may be the ends of a chain; the core takes what is between. */
export function BuildTools({ on }: { on: { id: string; name: string }[] }) {
  const d = documentOf();
  const ids = on.map((t) => t.id);
  const kinds = useMyriapod((s) => s.kinds).filter((k) => suits(k, ids));
  const [chosen, setChosen] = useState("");
  const [typed, setName] = useState<string>();
  const [options, setOptions] = useState<ParameterSet>({});
  const [filled, setFilled] = useState<Record<string, string[]>>({});
  const kind = kinds.find((k) => k.kind === chosen) ?? kinds[0];
  const owner = d.mechanisms.find((m) => m.joints.some((j) => ids.includes(j)));
  const name = typed ?? freeName(on[0]?.name ?? "", kind?.kind ?? "");
  if (!kind) return null;
  const [first, ...others] = asked(kind);
  const missing = others.filter((r) => (filled[r.name]?.length ?? 0) < r.least);
  const over = owner && first?.chain;
  const build = async () => {
    const before = new Set(d.mechanisms.map((m) => m.id));
    const made = await edit(
      {
        kind: "add-mechanism",
        mechanism: kind.kind,
        name,
        roles: { ...filled, [first?.name ?? ""]: ids },
        options: withDefaults(kind.options, options),
        blend: !!over,
      },
      `Building ${name}`,
    );
    const added = made?.document.mechanisms.find((m) => !before.has(m.id));
    if (added) setState({ chosen: [added.id], step: "mechanisms", asking: undefined });
  };
  return (
    <Section title="Build on it">
      {owner && <CardLink id={owner.id} what="is placed by" />}
      <div className="flex flex-col gap-1.5">
        <label className="flex justify-between">
          Kind
          <select
            className="field"
            value={kind.kind}
            onChange={(e) => {
              setChosen(e.target.value);
              setOptions({});
              setFilled({});
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
            onKeyDown={(e) => e.key === "Enter" && missing.length === 0 && void build()}
          />
        </label>
        {others.length > 0 && (
          <p className="flex justify-between" title={first?.help}>
            <span>{first?.title}</span>
            <span className="figure">{on.length === 1 ? on[0]?.name : `${on.length} chosen`}</span>
          </p>
        )}
        {others.map((role) => (
          <RoleField
            key={`${kind.kind} ${role.name}`}
            role={role}
            filled={filled[role.name] ?? []}
            taken={[...ids, ...others.filter((r) => r !== role).flatMap((r) => filled[r.name] ?? [])]}
            onFill={(things) => setFilled((f) => ({ ...f, [role.name]: things }))}
          />
        ))}
        <OptionFields declared={kind.options} values={options} onChange={setOptions} />
        {over && (
          <p className="text-ink-soft">
            It is laid over {owner.name}: a dial named blend goes from the one (0) to the other (1).
          </p>
        )}
        <button
          type="button"
          className="action action-main self-start"
          disabled={missing.length > 0}
          title={missing.length > 0 ? `Still to be chosen: ${missing.map((r) => r.title).join(", ")}` : undefined}
          onClick={() => void build()}
        >
          Build {kind.called}
        </button>
      </div>
    </Section>
  );
}
