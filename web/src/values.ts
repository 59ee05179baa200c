import type { Address, Document } from "./wire/rig.gen";

/** linkOf is what a number is linked to, where a link drives it. */
export const linkOf = (d: Document, of: string, key: string): Address | undefined =>
  d.drivers.find((x) => x.kind === "link" && x.on && x.drives.of === of && x.drives.key === key)?.by[0];
