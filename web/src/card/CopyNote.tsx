import { edit } from "../server/session";
import { documentOf, setState, useMyriapod, useOrigins } from "../state/store";
import { nameOf } from "./parts";

const WORDS: Record<string, string> = {
  name: "its name",
  label: "its label",
  offset: "its place",
  turn: "its orientation",
  order: "its rotation order",
  parent: "what it hangs on",
  space: "what it hangs on",
  on: "whether it is on",
  parameters: "settings",
  removed: "that it is gone",
  shape: "its shape",
  colour: "its colour",
  pivot: "its pivot",
  start: "its home",
  spaces: "what it can switch to",
  channels: "locks and limits",
  dials: "dials",
  without: "that it lacks dials",
};

/** CopyNote tells of a copy where it comes from, whom its edits are for, and what it keeps of its own. */
export function CopyNote({ id }: { id: string }) {
  const origins = useOrigins();
  const only = useMyriapod((s) => s.only);
  const origin = origins[id];
  if (!origin) return null;
  const repeat = documentOf().repeats.find((r) => r.id === origin.repeat);
  const own = repeat?.differences.find((d) => d.copy === origin.copy && d.of === origin.of);
  const kept = Object.keys(own ?? {}).filter((key) => key in WORDS);
  const choice = (value: boolean, title: string) => (
    <label className="flex gap-1.5">
      <input
        type="radio"
        name="edits-go-to"
        checked={only === value}
        onChange={() => setState({ only: value })}
        className="accent-violet"
      />
      {title}
    </label>
  );
  return (
    <section aria-label="Copy" className="border border-rule rounded-md p-2 my-2 bg-plate">
      <p>
        Copy {origin.copy} of{" "}
        <button type="button" className="underline" onClick={() => setState({ chosen: [origin.of] })}>
          {nameOf(origin.of)}
        </button>
        , by{" "}
        <button type="button" className="underline" onClick={() => setState({ chosen: [origin.repeat] })}>
          {repeat?.name}
        </button>
      </p>
      <div className="flex gap-3 mt-1">
        <span className="text-ink-soft">Edits are for</span>
        {choice(false, "all")}
        {choice(true, "this copy")}
      </div>
      {kept.length > 0 && (
        <p className="mt-1 text-ochre-deep">
          ◆ It keeps {kept.map((k) => WORDS[k]).join(", ")} of its own.{" "}
          <button
            type="button"
            className="underline"
            onClick={() =>
              void edit({ kind: "drop-difference", repeat: origin.repeat, copy: origin.copy, of: origin.of })
            }
          >
            Let it follow again
          </button>
        </p>
      )}
    </section>
  );
}
