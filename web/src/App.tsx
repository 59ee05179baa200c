import { useSyncExternalStore } from "react";
import { Notices } from "./bench/Notices";
import { SpecimenPage } from "./bench/SpecimenPage";
import { ShelfPage } from "./shelf/ShelfPage";

const subscribe = (changed: () => void) => {
  addEventListener("popstate", changed);
  return () => removeEventListener("popstate", changed);
};

/** go opens another address of the page without loading it anew. */
export function go(path: string) {
  history.pushState(null, "", path);
  dispatchEvent(new PopStateEvent("popstate"));
}

export function App() {
  const path = useSyncExternalStore(subscribe, () => location.pathname);
  const id = /^\/specimen\/([a-z0-9]+)$/.exec(path)?.[1];
  return (
    <>
      {id ? <SpecimenPage key={id} id={id} /> : <ShelfPage />}
      <Notices />
    </>
  );
}
