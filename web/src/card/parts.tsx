import type { ReactNode } from "react";
import { edit } from "../server/session";
import { documentOf, setState, useMyriapod } from "../state/store";

/** CardHead names the chosen thing, and lets it be renamed. */
export function CardHead({ id, name, children }: { id: string; name: string; children?: ReactNode }) {
  return (
    <>
      <input
        key={`${id} ${name}`}
        aria-label={`Rename ${name}`}
        className="font-serif text-[26px] bg-transparent w-full border-b border-transparent hover:border-rule"
        defaultValue={name}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.currentTarget.blur();
          if (e.key === "Escape") {
            e.currentTarget.value = name;
            e.currentTarget.blur();
          }
        }}
        onBlur={async (e) => {
          const input = e.target;
          const wanted = input.value.trim();
          if (!wanted || wanted === name) input.value = name;
          else if (!(await edit({ kind: "rename", id, name: wanted }))) input.value = name;
        }}
      />
      <div className="flex items-center justify-between border-b border-rule pb-1.5 mb-1">{children}</div>
    </>
  );
}

export function Section({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <section className="mt-3">
      <h3 className="caption">{title}</h3>
      {children}
    </section>
  );
}

/** nameOf is the name of whatever has the ID. */
export function nameOf(id: string): string {
  const d = documentOf();
  return (
    [
      ...d.controls,
      ...d.joints,
      ...d.mechanisms,
      ...d.parts,
      ...d.clips,
      ...d.repeats,
      ...d.measures,
      ...d.groups,
    ].find((t) => t.id === id)?.name ?? id
  );
}

/** CardLink leads to another thing. */
export function CardLink({ id, what, note }: { id: string; what: string; note?: string }) {
  const hovered = useMyriapod((s) => s.hovered === id);
  return (
    <button
      type="button"
      className={`flex w-full justify-between text-left py-0.5 px-1 rounded-sm ${hovered ? "bg-plate" : "hover:bg-plate"}`}
      onClick={() => setState({ chosen: [id] })}
      onPointerEnter={() => setState({ hovered: id })}
      onPointerLeave={() => setState({ hovered: undefined })}
    >
      <span>
        <span className="text-ink-soft">{what}</span> {nameOf(id)}
      </span>
      {note && <span className="figure">{note}</span>}
    </button>
  );
}
