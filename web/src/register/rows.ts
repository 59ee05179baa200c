import { matches } from "../text/wildcard";
import type { Document, Joint } from "../wire/rig.gen";
import type { Specimen } from "../wire/wire.gen";

export interface Row {
  id: string;
  name: string;
  label?: string;
  depth: number;
  joint: boolean;
  copy: boolean;
  differs: boolean;
}

/** treeOf lists joints with their depth, each below its parent. */
export function treeOf(joints: Joint[]): { joint: Joint; depth: number }[] {
  const children = new Map<string, Joint[]>();
  for (const j of joints) {
    const list = children.get(j.parent ?? "");
    if (list) list.push(j);
    else children.set(j.parent ?? "", [j]);
  }
  const list: { joint: Joint; depth: number }[] = [];
  const stack = (children.get("") ?? []).map((joint) => ({ joint, depth: 0 })).reverse();
  for (let at = stack.pop(); at; at = stack.pop()) {
    list.push(at);
    const below = children.get(at.joint.id) ?? [];
    for (let i = below.length - 1; i >= 0; i--) {
      const joint = below[i];
      // A chain does not step in at every joint: only what branches off does.
      if (joint) stack.push({ joint, depth: at.depth + (below.length > 1 ? 1 : 0) });
    }
  }
  return list;
}

export function groupsOf(d: Document, origins: Specimen["origins"], filter: string): { title: string; rows: Row[] }[] {
  const row = (t: { id: string; name: string; label?: string }, joint: boolean, depth = 0): Row => ({
    id: t.id,
    name: t.name,
    label: t.label,
    depth: Math.min(depth, 8),
    joint,
    copy: t.id in origins,
    differs: origins[t.id]?.differs ?? false,
  });
  return [
    { title: "Groups", rows: d.groups.map((g) => row(g, false)) },
    { title: "Repeats", rows: d.repeats.map((r) => row(r, false)) },
    { title: "Controls", rows: d.controls.map((c) => row(c, false)) },
    { title: "Mechanisms", rows: d.mechanisms.map((m) => row(m, false)) },
    { title: "Joints", rows: treeOf(d.joints).map(({ joint, depth }) => row(joint, true, filter ? 0 : depth)) },
    { title: "Parts", rows: d.parts.map((p) => row(p, false)) },
  ]
    .map((g) => ({
      ...g,
      rows: g.rows.filter((r) => matches(filter, r.name) || (!!r.label && matches(filter, r.label))),
    }))
    .filter((g) => g.rows.length > 0);
}
