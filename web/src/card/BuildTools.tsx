import { useEffect, useState } from "react";
import { api } from "../server/api";
import { attempt, edit } from "../server/session";
import { documentOf, setState, useMyriapod } from "../state/store";
import type { Offer } from "../wire/edit.gen";
import type { Declaration, Role } from "../wire/mechanism.gen";
import type { Set as ParameterSet } from "../wire/parameter.gen";
import { nameFor } from "../work/building";
import { OptionFields } from "./OptionFields";
import { CardLink, Section } from "./parts";
import { RoleField } from "./RoleField";

const asked = (kind: Declaration): Role[] => kind.roles.filter((r) => !r.made);

/** useOffers asks the core what can be built on things, the likeliest first. */
function useOffers(ids: string[]): Offer[] {
  const id = useMyriapod((s) => s.specimen?.id);
  const sequence = useMyriapod((s) => s.specimen?.sequence);
  const [offers, setOffers] = useState<Offer[]>([]);
  const key = ids.join(" ");
  // biome-ignore lint/correctness/useExhaustiveDependencies: another state of the document may offer other things
  useEffect(() => {
    let gone = false;
    if (id && key)
      void attempt(() => api.offers(id, key.split(" "))).then((list) => {
        if (!gone && list) setOffers(list);
      });
    return () => {
      gone = true;
    };
  }, [id, key, sequence]);
  return offers;
}

/** BuildTools builds a mechanism on what is chosen, which stands in the first role of its kind; the other roles are asked for one by one. Two joints may be the ends of a chain; the core takes what is between. */
export function BuildTools({ on }: { on: { id: string; name: string }[] }) {
  const d = documentOf();
  const ids = on.map((t) => t.id);
  const declared = useMyriapod((s) => s.kinds);
  const offers = useOffers(ids);
  const find = (name: string) => declared.find((k) => k.kind === name);
  const kinds = offers.filter((o) => o.fits).flatMap((o) => find(o.kind) ?? []);
  const unfit = offers.filter((o) => !o.fits);
  const [chosen, setChosen] = useState("");
  const [typed, setName] = useState<string>();
  const [options, setOptions] = useState<ParameterSet>({});
  const [filled, setFilled] = useState<Record<string, string[]>>({});
  const kind = kinds.find((k) => k.kind === chosen) ?? kinds[0];
  const owner = d.mechanisms.find((m) => m.joints.some((j) => ids.includes(j)));
  const name = typed ?? nameFor(on[0]?.name ?? "", kind?.kind ?? "");
  if (!kind)
    return unfit.length > 0 ? (
      <Section title="Build on it">
        <Unfit offers={unfit} find={find} />
      </Section>
    ) : null;
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
        options,
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
        <Unfit offers={unfit} find={find} />
      </div>
    </Section>
  );
}

/** Unfit says of what cannot be built on what is chosen why not. */
function Unfit({ offers, find }: { offers: Offer[]; find(kind: string): Declaration | undefined }) {
  return (
    <details>
      <summary className="underline cursor-pointer">what does not fit, and why</summary>
      {offers.map((o) => (
        <p key={o.kind} className="text-ink-soft">
          <span className="text-ink">{find(o.kind)?.title}</span>: {o.why}
        </p>
      ))}
    </details>
  );
}
