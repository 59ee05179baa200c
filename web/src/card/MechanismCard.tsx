import { Switch } from "@headlessui/react";
import { edit, keepTried, pose } from "../server/session";
import { documentOf, setState, useMyriapod } from "../state/store";
import type { Value } from "../wire/parameter.gen";
import type { Mechanism } from "../wire/rig.gen";
import { linkOf } from "../work/values";
import { ArrangeTools, EndTools, ExtendTools, MatchTools } from "./ChainTools";
import { CopyNote } from "./CopyNote";
import { GiveTools } from "./GiveTools";
import { GroundTools } from "./GroundTools";
import { GroupTools } from "./GroupTools";
import { ParameterRow } from "./ParameterRow";
import { PatternTools } from "./PatternTools";
import { CardHead, CardLink, Section } from "./parts";
import { RepeatTools } from "./RepeatTools";

const counted = (count: number, thing: string) => `${count} ${thing}${count === 1 ? "" : "s"}`;

function tryValue(mechanism: string, key: string, value: Value) {
  setState((s) => ({ tried: { ...s.tried, [mechanism]: { ...s.tried[mechanism], [key]: value } } }));
  pose();
}

/** MechanismCard is drawn from the parameters that the core declares for the mechanism's kind. */
export function MechanismCard({ mechanism }: { mechanism: Mechanism }) {
  const kind = useMyriapod((s) => s.kinds.find((k) => k.kind === mechanism.kind));
  const kinds = useMyriapod((s) => s.kinds);
  const tried = useMyriapod((s) => s.tried[mechanism.id]);
  const raised = useMyriapod((s) => s.raised);
  const d = documentOf();
  if (!kind) return null;
  const guests = d.mechanisms.filter((m) => m.host === mechanism.id);
  const host = d.mechanisms.find((m) => m.id === mechanism.host);
  const tops = d.joints.filter((j) => mechanism.joints.includes(j.id) && !mechanism.joints.includes(j.parent ?? ""));
  return (
    <>
      <CardHead id={mechanism.id} name={mechanism.name}>
        <span className="text-violet grow">
          {kind.title}
          {mechanism.joints.length > 0 &&
            ` · ${counted(mechanism.joints.length, "joint")}, ${counted(mechanism.controls.length, "control")}`}
        </span>
        <span className="flex items-center gap-1.5">
          {mechanism.on ? "on" : "off"}
          <Switch
            checked={mechanism.on}
            onChange={(on) => void edit({ kind: "switch-mechanism", mechanism: mechanism.id, on })}
            aria-label={`${mechanism.name} on`}
            className="w-8 h-4 rounded-full border border-ink bg-plate data-checked:bg-violet"
          />
        </span>
      </CardHead>
      <CopyNote id={mechanism.id} />
      {raised
        .filter((f) => f.subject === mechanism.id)
        .map((f) => (
          <p key={f.text} className="text-vermilion-deep my-1">
            ⚑ {f.text}
          </p>
        ))}
      {kind.parameters.map((p) => (
        <ParameterRow
          key={p.key}
          declaration={p}
          of={{ of: mechanism.id, key: p.key }}
          driven={linkOf(d, mechanism.id, p.key)}
          onDrive={(control) => void edit({ kind: "drive-parameter", mechanism: mechanism.id, key: p.key, control })}
          value={tried?.[p.key] ?? mechanism.parameters[p.key] ?? p.default}
          onTry={(value) => tryValue(mechanism.id, p.key, value)}
          onKeep={(value) => {
            if (value !== undefined) tryValue(mechanism.id, p.key, value);
            void keepTried(mechanism.id);
          }}
        />
      ))}
      <GiveTools mechanism={mechanism} />
      <PatternTools kind={kind} />
      {kind.kind === "ground" && <GroundTools />}
      <MatchTools mechanism={mechanism} />
      {kind.arranges && <ArrangeTools mechanism={mechanism} />}
      {kind.pins && <EndTools mechanism={mechanism} />}
      {kind.extends && <ExtendTools mechanism={mechanism} />}
      {tops.length > 0 && <RepeatTools joints={tops} />}
      <GroupTools ids={[mechanism.id, ...mechanism.controls]} />
      <Section title="Works with">
        {host && <CardLink id={host.id} what="bends" />}
        {guests.map((g) => (
          <CardLink key={g.id} id={g.id} what="is bent by" />
        ))}
        {mechanism.controls.map((c) => (
          <CardLink key={c} id={c} what="answers to" />
        ))}
        {[...(mechanism.homes ?? [])].map((id) => (
          <CardLink key={id} id={id} what="carries" />
        ))}
        {(mechanism.takes ?? []).map((id) => (
          <CardLink key={id} id={id} what="follows" />
        ))}
      </Section>
      <div className="flex flex-wrap gap-2 mt-3">
        {kinds
          .filter((k) => k.hosts.includes(mechanism.kind))
          .map((k) => (
            <button
              key={k.kind}
              type="button"
              className="action action-main"
              title={k.summary}
              onClick={async () => {
                const made = await edit({
                  kind: "add-mechanism",
                  mechanism: k.kind,
                  name: `${mechanism.name}_${k.kind.split("-").at(-1)}`,
                  host: mechanism.id,
                });
                const added = made?.document.mechanisms.find((m) => !d.mechanisms.some((b) => b.id === m.id));
                if (added) setState({ chosen: [added.id] });
              }}
            >
              Add {k.called}
            </button>
          ))}
        <button
          type="button"
          className="action"
          onClick={() => void edit({ kind: "remove-mechanism", mechanism: mechanism.id })}
        >
          Remove
        </button>
      </div>
    </>
  );
}
