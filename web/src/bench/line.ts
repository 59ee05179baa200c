import type { Entry } from "../wire/wire.gen";

/** lineOf lists the revisions that lead to the present one, by number. */
export function lineOf(entries: Entry[]): Set<number> {
  const byNumber = new Map(entries.map((e) => [e.number, e]));
  const line = new Set<number>();
  for (let at = entries.find((e) => e.present); at; at = byNumber.get(at.parent ?? -1)) line.add(at.number);
  return line;
}
