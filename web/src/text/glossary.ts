import table from "../../../docs/glossary.md?raw";

/** Entry is a word of ours beside the trade's, and what it means. */
export interface Entry {
  here: string;
  trade: string;
  means: string;
}

/** glossary is the table of docs/glossary.md. */
export const glossary: Entry[] = table
  .split("\n")
  .filter((line) => line.startsWith("|"))
  .slice(2)
  .map((line) => {
    const [, here = "", trade = "", means = ""] = line.split("|").map((cell) => cell.trim());
    return { here, trade, means: means.replaceAll("`", "") };
  });
