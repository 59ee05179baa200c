import { lazy, Suspense, useSyncExternalStore } from "react";
import { Notices } from "./bench/Notices";

import { ShelfPage } from "./shelf/ShelfPage";
import { onAddress, specimenAt } from "./state/address";

/** SpecimenPage comes with all that draws in space, which the Shelf does without. */
const SpecimenPage = lazy(() => import("./bench/SpecimenPage").then((m) => ({ default: m.SpecimenPage })));

export function App() {
  const path = useSyncExternalStore(onAddress, () => location.pathname);
  const id = specimenAt(path);
  return (
    <>
      <Suspense fallback={<p className="caption p-10">Opening the specimen…</p>}>
        {id ? <SpecimenPage key={id} id={id} /> : <ShelfPage />}
      </Suspense>
      <Notices />
    </>
  );
}
