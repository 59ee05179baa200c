import { useState } from "react";
import { foresee } from "../server/asking";
import { edit } from "../server/session";
import type { Preview } from "../wire/edit.gen";
import type { Change } from "../wire/edits.gen";
import { Section } from "./parts";

type Way = "pattern" | "replace" | "label";
const WAYS: Way[] = ["pattern", "replace", "label"];

/** NameTools names things together: by a pattern, by replacing text in their names, or by a label for animators. */
export function NameTools({ ids, first, ways = WAYS }: { ids: string[]; first: string; ways?: Way[] }) {
  const [way, setWay] = useState<Way>(ways[0] ?? "replace");
  const [pattern, setPattern] = useState(() => first.replace(/\d+$/, (digits) => "#".repeat(digits.length)));
  const [search, setSearch] = useState("");
  const [text, setText] = useState("");
  const [label, setLabel] = useState("");
  const [preview, setPreview] = useState<Preview | string>();
  const change: Change =
    way === "pattern"
      ? { kind: "name-joints", joints: ids, pattern }
      : way === "replace"
        ? { kind: "rename-many", ids, search, replace: text }
        : { kind: "label", ids, pattern: label };
  const look = async () => setPreview(await foresee(change));
  const input = (name: string, value: string, set: (v: string) => void, placeholder = "") => (
    <input
      aria-label={name}
      className="field grow figure"
      placeholder={placeholder}
      value={value}
      onChange={(e) => {
        set(e.target.value);
        setPreview(undefined);
      }}
      onBlur={() => way !== "label" && void look()}
    />
  );
  return (
    <Section title="Name">
      <form
        className="flex flex-col gap-1"
        onSubmit={async (e) => {
          e.preventDefault();
          if (await edit(change)) setPreview(undefined);
        }}
      >
        <div className="flex gap-3">
          {ways.map((w) => (
            <label key={w} className="flex gap-1.5">
              <input type="radio" checked={way === w} onChange={() => setWay(w)} className="accent-violet" />
              {w}
            </label>
          ))}
        </div>
        <div className="flex gap-2">
          {way === "pattern" && input("Pattern; # is the counter", pattern, setPattern)}
          {way === "replace" && (
            <>
              {input("Text to replace", search, setSearch, "replace")}
              {input("New text", text, setText, "by")}
            </>
          )}
          {way === "label" && input("Label for animators", label, setLabel, "Back #")}
          <button type="submit" className="action">
            {way === "label" ? "Label" : "Name"}
          </button>
        </div>
      </form>
      <p className="text-ink-soft">
        # counts, {"{side}"} is L, R or C, {"{part}"} the part it stands in
      </p>
      {typeof preview === "string" && <p className="text-vermilion-deep">{preview}</p>}
      {typeof preview === "object" && (
        <ul className="figure max-h-28 overflow-y-auto" aria-label="What would be renamed">
          {preview.renamed.length === 0 && <li className="text-ink-soft">Nothing would be renamed.</li>}
          {preview.renamed.slice(0, 40).map((r) => (
            <li key={r.id}>
              <span className="text-ink-soft">{r.from} →</span> {r.to}
            </li>
          ))}
        </ul>
      )}
    </Section>
  );
}
