import { useEffect, useId, useLayoutEffect, useRef, useState } from "react";
import { mistakeOf } from "../server/asking";
import { documentOf } from "../state/store";
import { type Mistake, meantBy, mended, put, wordAt, writtenValue } from "../text/formula";
import type { Change } from "../wire/edits.gen";
import type { Word } from "../wire/formula.gen";
import { addresses } from "../work/values";

const pause = 250; // milliseconds of rest before what is typed is tried
const offered = 7; // completions at a time

interface FormulaFieldProps {
  label: string;
  words: Word[];
  kept: string; // what is in force
  change(text: string): Change;
  onTry(change?: Change): void; // a change that could be made, or none any more
  onKeep(text: string): void;
}

/** FormulaField writes a formula. What is typed is tried while it is typed; the last good one stays in force until this one is kept. */
export function FormulaField({ label, words, kept, change, onTry, onKeep }: FormulaFieldProps) {
  const [draft, setDraft] = useState<string>();
  const [caret, setCaret] = useState(0);
  const [mistake, setMistake] = useState<Mistake>();
  const [tried, setTried] = useState<string>();
  const field = useRef<HTMLTextAreaElement>(null);
  const latest = useRef({ change, onTry });
  latest.current = { change, onTry };
  const goTo = useRef<number>(undefined); // where the caret is to stand once the text is in the field
  const told = useId();
  const text = draft ?? kept;
  useEffect(() => () => latest.current.onTry(undefined), []);
  useEffect(() => {
    if (draft === undefined) {
      latest.current.onTry(undefined);
      return setMistake(undefined);
    }
    let stale = false;
    const timer = setTimeout(async () => {
      const meant = latest.current.change(draft);
      const wrong = await mistakeOf(meant);
      if (stale) return;
      latest.current.onTry(wrong ? undefined : meant);
      setMistake(wrong);
      setTried(draft);
    }, pause);
    return () => {
      stale = true;
      clearTimeout(timer);
    };
  }, [draft]);
  const write = (next: { text: string; caret: number }) => {
    setDraft(next.text);
    setCaret(next.caret);
    goTo.current = next.caret;
    field.current?.focus();
  };
  useLayoutEffect(() => {
    if (goTo.current === undefined) return;
    field.current?.setSelectionRange(goTo.current, goTo.current);
    goTo.current = undefined;
  });
  const keep = () => {
    if (draft === undefined || mistake) return;
    field.current?.blur();
    setDraft(undefined);
    onKeep(draft);
  };
  const choices = draft === undefined ? [] : completions(draft, caret, words);
  const first = choices[0];
  const meant = mistake && meantBy(mistake);
  return (
    <div className="flex flex-col gap-0.5">
      <textarea
        ref={field}
        rows={Math.min(6, 1 + Math.floor(text.length / 34))}
        aria-label={label}
        aria-describedby={told}
        aria-invalid={!!mistake}
        spellCheck={false}
        className="field figure w-full resize-y"
        value={text}
        onChange={(e) => {
          setDraft(e.target.value);
          setCaret(e.target.selectionStart);
        }}
        onSelect={(e) => setCaret(e.currentTarget.selectionStart)}
        onKeyDown={(e) => {
          if (e.key === "Enter") {
            e.preventDefault();
            keep();
          } else if (e.key === "Tab" && !e.shiftKey && first && wordAt(text, caret).word) {
            e.preventDefault();
            write(put(text, caret, first.writes));
          } else if (e.key === "Escape") setDraft(undefined);
        }}
      />
      <div id={told} role="status" className="leading-snug">
        {mistake && <Marked text={draft ?? ""} mistake={mistake} />}
        {!mistake && draft !== undefined && tried === draft && draft !== kept && (
          <span className="text-ink-soft">
            It can be read; <span className="key">Enter</span> keeps it.
          </span>
        )}
      </div>
      {meant !== undefined && mistake && (
        <button
          type="button"
          className="underline self-start"
          onClick={() => {
            const next = mended(draft ?? "", mistake);
            write({ text: next, caret: next.length });
          }}
        >
          {`Write ${meant}`}
        </button>
      )}
      {choices.length > 0 && (
        <ul className="border-l border-rule pl-2" aria-label="What can be written here">
          {choices.map((c, i) => (
            <li key={c.writes}>
              <button
                type="button"
                tabIndex={-1}
                className="flex gap-2 w-full text-left hover:bg-paper"
                onMouseDown={(e) => e.preventDefault()}
                onClick={() => write(put(text, caret, c.writes))}
              >
                <span className="figure shrink-0">{c.shows}</span>
                <span className="text-ink-soft truncate">{c.says}</span>
                {i === 0 && <span className="key ml-auto">Tab</span>}
              </button>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

/** completions lists what the word before the caret may become. */
function completions(text: string, caret: number, words: Word[]) {
  const word = wordAt(text, caret).word.replace(/^'/, "").toLowerCase();
  if (!word) return [];
  const own = words
    .filter((w) => w.name.startsWith(word) && w.name !== word)
    .map((w) => ({
      writes: w.takes ? `${w.name}(` : w.name,
      shows: w.takes ? `${w.name}(${w.takes.join(", ")})` : w.name,
      says: w.summary,
    }));
  const values = addresses(documentOf())
    .filter((a) => a.name.toLowerCase().includes(word) && a.name.toLowerCase() !== word)
    .sort((a, b) => Number(b.name.toLowerCase().startsWith(word)) - Number(a.name.toLowerCase().startsWith(word)))
    .slice(0, offered)
    .map((a) => ({ writes: writtenValue(a.name), shows: writtenValue(a.name), says: "" }));
  return [...own, ...values].slice(0, offered);
}

/** Marked shows a text with its mistake marked at its character, and what is wrong. */
function Marked({ text, mistake }: { text: string; mistake: Mistake }) {
  const characters = [...text];
  const at = mistake.at;
  return (
    <span className="text-vermilion-deep">
      {at !== undefined && (
        <span className="figure block break-all" aria-hidden>
          <span className="text-ink-soft">{characters.slice(Math.max(0, at - 30), at).join("")}</span>
          <mark className="bg-transparent text-vermilion-deep border-b-2 border-vermilion">
            {characters.slice(at, at + 12).join("") || "␣"}
          </mark>
        </span>
      )}
      {mistake.message}
    </span>
  );
}
