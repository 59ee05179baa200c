/** A Mistake is what is wrong with a text, and at which character where that is known. */
export interface Mistake {
  message: string;
  at?: number;
}

const plain = /^[A-Za-z_][A-Za-z0-9_]*$/;

const written = (name: string) => (plain.test(name) ? name : `'${name.replace(/[\\']/g, "\\$&")}'`);

/** writtenValue is the name of a value as a formula has it: in quotes where it is more than letters and digits. */
export function writtenValue(name: string): string {
  const dot = name.lastIndexOf(".");
  return dot < 0 ? written(name) : `${written(name.slice(0, dot))}.${written(name.slice(dot + 1))}`;
}

/** wordAt is the word that is being typed before the caret: where it begins, and its letters. */
export function wordAt(text: string, caret: number): { from: number; word: string } {
  const word = /(?:'[^']*|[A-Za-z_][\w.]*)$/.exec(text.slice(0, caret))?.[0] ?? "";
  return { from: caret - word.length, word };
}

/** put puts something in the place of the word before the caret, and tells where the caret then stands. */
export function put(text: string, caret: number, what: string): { text: string; caret: number } {
  const { from } = wordAt(text, caret);
  return { text: text.slice(0, from) + what + text.slice(caret), caret: from + what.length };
}

/** meantBy is what a message suggests in the place of the word that is wrong, if it does. */
export const meantBy = (mistake: Mistake): string | undefined => /; is (.+) meant\?/.exec(mistake.message)?.[1];

/** mended is the text with what was meant in the place of the word that is wrong. at counts characters, as a person does, and not halves of them. */
export function mended(text: string, mistake: Mistake): string {
  const meant = meantBy(mistake);
  if (meant === undefined || mistake.at === undefined) return text;
  const characters = [...text];
  const rest = characters.slice(mistake.at).join("");
  const wrong = /^(?:'(?:[^'\\]|\\.)*'|[A-Za-z_]\w*)(?:\.(?:'(?:[^'\\]|\\.)*'|[A-Za-z_]\w*))?/.exec(rest)?.[0] ?? "";
  const key = meant.includes(".") ? "" : (/\.[^.]*$/.exec(wrong)?.[0] ?? "");
  return characters.slice(0, mistake.at).join("") + writtenValue(meant + key) + rest.slice(wrong.length);
}
