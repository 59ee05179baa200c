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
