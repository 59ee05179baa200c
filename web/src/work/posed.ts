import { documentOf, type state } from "../state/store";
import type { Address } from "../wire/rig.gen";
import { rowsOf } from "./channels";

/** Posed is a number that was brought somewhere by hand, in its own unit. */
export interface Posed {
  drives: Address;
  value: number;
}

/** posedBut lists what is posed by hand now, but for one number. */
export function posedBut(s: Pick<ReturnType<typeof state>, "held" | "heldMorphs">, but: Address): Posed[] {
  const d = documentOf();
  const list: Posed[] = [];
  for (const control of d.controls)
    for (const row of rowsOf(control)) {
      const value = s.held[control.id]?.[row.channel];
      if (value !== undefined && value !== row.rest) list.push({ drives: { of: control.id, key: row.channel }, value });
    }
  for (const part of d.parts)
    for (const morph of part.morphs ?? []) {
      const value = s.heldMorphs[part.id]?.[morph.name];
      if (value !== undefined && value !== morph.value) list.push({ drives: { of: part.id, key: morph.name }, value });
    }
  return list.filter((p) => p.drives.of !== but.of || p.drives.key !== but.key);
}
