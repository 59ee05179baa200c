import { useEffect } from "react";
import { edit, pose } from "../server/session";
import { setState, useMyriapod } from "../state/store";
import { length } from "../text/numbers";
import type { Binding } from "../wire/rig.gen";
import { NumberField } from "./NumberField";

/** CompareTools shows a part between two bindings, and tells how far they are apart. */
export function CompareTools({ binding }: { binding: Binding }) {
  const compare = useMyriapod((s) => (s.compare?.part === binding.part ? s.compare : undefined));
  const compared = useMyriapod((s) => (compare ? s.frame?.compared : undefined));
  useEffect(
    () => () => {
      setState({ compare: undefined });
      pose();
    },
    [],
  );
  const show = (now: typeof compare) => {
    setState({ compare: now });
    pose();
  };
  return (
    <div className="flex flex-col gap-1 mt-1.5" data-compared={compared?.greatest}>
      <label className="flex gap-2 items-center">
        Compare with
        <select
          aria-label="What the binding is compared with"
          className="field grow min-w-0"
          value={compare?.with ?? ""}
          onChange={(e) => show(e.target.value ? { part: binding.part, with: e.target.value, share: 0 } : undefined)}
        >
          <option value="">nothing</option>
          <option value="unbound">the part unbound</option>
          {binding.last && <option value="last">the last binding, by {binding.last.method}</option>}
        </select>
      </label>
      {compare && (
        <>
          <input
            type="range"
            aria-label="From this binding to the other"
            className="w-full accent-violet"
            min={0}
            max={1}
            step={0.01}
            value={compare.share}
            onChange={(e) => show({ ...compare, share: Number(e.target.value) })}
          />
          <NumberField
            label="Share of the other"
            min={0}
            max={1}
            step={0.01}
            value={compare.share}
            onKeep={(share) => show({ ...compare, share })}
          />
          {compared && (
            <p>
              {`In this pose they are up to ${length(compared.greatest)} apart, ${length(compared.mean)} on average; the darker, the farther.`}
            </p>
          )}
          {compare.with === "last" && (
            <button
              type="button"
              className="action self-start"
              onClick={async () => {
                if (await edit({ kind: "mix-bindings", part: binding.part, share: compare.share })) show(undefined);
              }}
            >
              Keep this mix
            </button>
          )}
        </>
      )}
    </div>
  );
}
