/** sideOf reads a side from a name: a letter L or R that stands by itself. */
export function sideOf(name: string): "L" | "R" | "C" {
  const found = /(?:^|[_.\-\s])([LR])(?=$|[_.\-\s\d])/.exec(name);
  return (found?.[1] as "L" | "R" | undefined) ?? "C";
}
