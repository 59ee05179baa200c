import { STEPS, type Step } from "./store";

const changed = "popstate";

/** go opens another address of the page without loading it anew. */
export function go(path: string) {
  history.pushState(null, "", path);
  dispatchEvent(new PopStateEvent(changed));
}

/** onAddress calls back whenever the page has another address. */
export function onAddress(then: () => void) {
  addEventListener(changed, then);
  return () => removeEventListener(changed, then);
}

/** Place is where in a specimen somebody is: the step, and what is chosen, by name or ID. */
export interface Place {
  step?: Step;
  chosen: string[];
}

/** specimenAt is the specimen that an address is of; undefined for the Shelf. */
export const specimenAt = (path: string) => /^\/specimen\/([a-z0-9]+)(\/|$)/.exec(path)?.[1];

/** placeAt reads the place from an address: /specimen/ID/controls?chosen=root. */
export function placeAt(path: string, query: string): Place {
  const step = STEPS.find((s) => s === path.split("/")[3]);
  return { step, chosen: new URLSearchParams(query).getAll("chosen") };
}

/** MOST is how many chosen things an address names; more of them make it too long to be handed on. */
const MOST = 8;

/** addressOf writes a place as an address. */
export function addressOf(specimen: string, { step, chosen }: Place): string {
  const query = new URLSearchParams(chosen.slice(0, MOST).map((name) => ["chosen", name]));
  return `/specimen/${specimen}${step ? `/${step}` : ""}${query.size > 0 ? `?${query}` : ""}`;
}

const kept = (specimen: string) => `myriapod place ${specimen}`;

/** keepPlace remembers in this browser where somebody is in a specimen. */
export function keepPlace(specimen: string, place: Place) {
  try {
    localStorage.setItem(kept(specimen), JSON.stringify(place));
  } catch {
    // a browser that keeps nothing opens every specimen where it begins
  }
}

/** keptPlace is where somebody was in a specimen last. */
export function keptPlace(specimen: string): Place {
  try {
    const place = JSON.parse(localStorage.getItem(kept(specimen)) ?? "{}");
    return { step: STEPS.find((s) => s === place.step), chosen: Array.isArray(place.chosen) ? place.chosen : [] };
  } catch {
    return { chosen: [] };
  }
}

const BEGUN = "myriapod begun";

/** isFirstRun tells, once in a browser, that nobody has opened a specimen here before. */
export function isFirstRun(): boolean {
  try {
    const first = localStorage.getItem(BEGUN) === null;
    localStorage.setItem(BEGUN, "yes");
    return first;
  } catch {
    return false;
  }
}
