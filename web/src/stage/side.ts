export type Side = "L" | "R" | "C";

/** sideOf reads the side to ink a thing in from its name: a letter or word for left or right that stands by itself. */
export function sideOf(name: string): Side {
  const found = /(?:^|[^A-Za-z])(L|R|l|r|left|right|Left|Right|LEFT|RIGHT)(?=$|[^A-Za-z])/.exec(name);
  const letter = found?.[1]?.[0]?.toUpperCase();
  return letter === "L" || letter === "R" ? letter : "C";
}
