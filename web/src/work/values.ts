import { state } from "../state/store";
import type { Address, Document } from "../wire/rig.gen";
import { CHANNELS } from "./channels";

/** linkOf is what a number is linked to, where a link drives it. */
export const linkOf = (d: Document, of: string, key: string): Address | undefined =>
  d.drivers.find((x) => x.kind === "link" && x.on && x.drives.of === of && x.drives.key === key)?.by[0];

/** isDriven tells whether something drives a number. */
export const isDriven = (d: Document, of: string, key: string): boolean =>
  d.drivers.some((x) => x.on && x.drives.of === of && x.drives.key === key);

/** addresses lists the numbers that a driver can read, by name. */
export function addresses(d: Document): { id: string; name: string }[] {
  const of = (id: string, name: string, keys: string[]) =>
    keys.map((key) => ({ id: `${id}.${key}`, name: `${name}.${key}` }));
  const kinds = new Map(state().kinds.map((k) => [k.kind, k.parameters.filter((p) => p.dial).map((p) => p.key)]));
  return [
    ...d.measures.map((m) => ({ id: `${m.id}.value`, name: m.name })),
    ...d.controls.flatMap((c) =>
      of(c.id, c.name, [...(c.dials ?? []).map((x) => x.name), ...CHANNELS.map((x) => x.channel)]),
    ),
    ...d.mechanisms.flatMap((m) => of(m.id, m.name, kinds.get(m.kind) ?? [])),
    ...d.parts.flatMap((p) =>
      of(
        p.id,
        p.name,
        (p.morphs ?? []).map((m) => m.name),
      ),
    ),
  ];
}

/** addressOf undoes the IDs of addresses. */
export function addressOf(id: string): Address {
  const dot = id.lastIndexOf(".");
  return { of: id.slice(0, dot), key: id.slice(dot + 1) };
}

/** nameOfValue is the name of a number. */
export function nameOfValue(d: Document, a: Address): string {
  const measure = d.measures.find((m) => m.id === a.of);
  if (measure) return measure.name;
  const bearer = [...d.controls, ...d.mechanisms, ...d.parts].find((t) => t.id === a.of);
  return `${bearer?.name ?? a.of}.${a.key}`;
}
