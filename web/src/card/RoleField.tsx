import { useEffect } from "react";
import { documentOf, setState, useMyriapod } from "../state/store";
import type { Role } from "../wire/mechanism.gen";
import { HangField } from "./HangField";
import { nameOf } from "./parts";

/** candidates lists what can stand in a role, but for what stands in others. */
function candidates(role: Role, taken: string[]) {
  const d = documentOf();
  const all = [...(role.joints ? d.joints : []), ...(role.controls ? d.controls : []), ...(role.parts ? d.parts : [])];
  return all.filter((t) => !taken.includes(t.id));
}

/** said says how many things a role takes. */
function said({ least, most, joints, controls, parts }: Role): string {
  const what = [joints && "joints", controls && "controls", parts && "parts"].filter(Boolean).join(" or ");
  if (most === 1) return least === 1 ? `one of the ${what}` : `one of the ${what}, or none`;
  if (most > 0) return `${least} to ${most} ${what}`;
  return `${least} or more ${what}`;
}

/** RoleField asks for what stands in one role: by name, or by a click on the stage, where all that can stand there is lit. */
export function RoleField({
  role,
  filled,
  taken,
  onFill,
}: {
  role: Role;
  filled: string[];
  taken: string[]; // what stands in other roles
  onFill(ids: string[]): void;
}) {
  const asking = useMyriapod((s) => s.asking?.role === role.name);
  const room = role.most === 0 || filled.length < role.most;
  const add = (id: string) => onFill(role.most === 1 ? [id] : [...filled.filter((f) => f !== id), id]);
  useEffect(() => () => setState((s) => (s.asking?.role === role.name ? { asking: undefined } : {})), [role.name]);
  // The stage asks whoever answers now, so that several clicks fill the role one after the other.
  useEffect(() => {
    if (!asking) return;
    setState({
      asking: { role: role.name, title: role.title, ids: candidates(role, taken).map((t) => t.id), pick: add },
    });
  });
  return (
    <fieldset className="border-b border-dotted border-rule pb-1.5" data-role={role.name}>
      <legend className="flex w-full justify-between" title={role.help}>
        <span>{role.title}</span>
        <span className={filled.length < role.least ? "text-vermilion-deep" : "text-ink-soft"}>{said(role)}</span>
      </legend>
      {filled.map((id) => (
        <p key={id} className="flex justify-between px-1">
          <span className="figure">{nameOf(id)}</span>
          <button
            type="button"
            aria-label={`Take ${nameOf(id)} out of ${role.title}`}
            className="text-ink-soft hover:text-ink"
            onClick={() => onFill(filled.filter((other) => other !== id))}
          >
            ×
          </button>
        </p>
      ))}
      {(room || role.most === 1) && (
        <div className="flex flex-col gap-1">
          <HangField
            label={`${role.title}, by name`}
            placeholder="by name"
            carriers={candidates(role, [...taken, ...filled])}
            verb="Put"
            onHang={add}
          />
          <button
            type="button"
            className={`action self-start ${asking ? "action-main" : ""}`}
            aria-pressed={asking}
            onClick={() =>
              setState({
                asking: asking
                  ? undefined
                  : { role: role.name, title: role.title, ids: candidates(role, taken).map((t) => t.id), pick: add },
              })
            }
          >
            {asking ? "Click it on the stage … (Escape ends)" : "Pick on the stage"}
          </button>
        </div>
      )}
    </fieldset>
  );
}
