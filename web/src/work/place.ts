import { openSpecimen } from "../server/session";
import { addressOf, keepPlace, keptPlace, onAddress, placeAt, specimenAt } from "../state/address";
import { documentOf, setState, state, useMyriapod } from "../state/store";
import { goToStep } from "./building";

/** everything lists all that can be chosen. */
const everything = () => {
  const d = documentOf();
  return [...d.parts, ...d.joints, ...d.controls, ...d.mechanisms, ...d.repeats, ...d.measures, ...d.groups];
};

/** named finds what is called so, or has such an ID. */
const named = (names: string[]) =>
  everything()
    .filter((thing) => names.includes(thing.name) || names.includes(thing.id))
    .map((thing) => thing.id);

/** openAt opens a specimen where the address says, or where somebody was last. It returns what ends the keeping of the place. */
export function openAt(specimen: string): () => void {
  const asked = placeAt(location.pathname, location.search);
  const arrived = state().arrived === specimen;
  const was = asked.step || asked.chosen.length > 0 ? asked : keptPlace(specimen);
  let ended = false;
  let stop = () => {};
  void openSpecimen(specimen).then(() => {
    if (ended || state().specimen?.id !== specimen) return;
    if (!arrived) {
      if (was.step) goToStep(was.step);
      setState({ chosen: named(was.chosen) });
    }
    const keep = () => {
      const { step, chosen, specimen: now } = state();
      if (now?.id !== specimen || specimenAt(location.pathname) !== specimen) return;
      const names = new Map(everything().map((thing) => [thing.id, thing.name]));
      keepPlace(specimen, { step, chosen });
      history.replaceState(null, "", addressOf(specimen, { step, chosen: chosen.map((id) => names.get(id) ?? id) }));
    };
    keep();
    const forget = useMyriapod.subscribe((s, before) => {
      if (s.step !== before.step || s.chosen !== before.chosen) keep();
    });
    const forgetAddress = onAddress(() => {
      if (specimenAt(location.pathname) !== specimen || state().specimen?.id !== specimen) return;
      const place = placeAt(location.pathname, location.search);
      if (place.step) goToStep(place.step);
      setState({ chosen: named(place.chosen) });
    });
    stop = () => {
      forget();
      forgetAddress();
    };
  });
  return () => {
    ended = true;
    stop();
  };
}
