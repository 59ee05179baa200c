import { useState } from "react";
import { edit } from "../server/session";
import { documentOf, setState, useOrigins } from "../state/store";
import type { Repeat } from "../wire/rig.gen";
import { NumberField } from "./NumberField";
import { CardHead, CardLink, nameOf, Section } from "./parts";

const RULES: Record<string, string> = { mirror: "Mirror", ring: "Ring", series: "Series along a chain" };

/** RepeatCard is for one repeat: how its copies are made and named, and what they keep of their own. */
export function RepeatCard({ repeat }: { repeat: Repeat }) {
  const origins = useOrigins();
  const [replace, setReplace] = useState(repeat.replace);
  const [pattern, setPattern] = useState(repeat.pattern);
  const copies = Object.entries(origins).filter(([, o]) => o.repeat === repeat.id);
  const tops = copies.filter(([, o]) => repeat.sources.includes(o.of)).map(([id]) => id);
  const d = documentOf();
  const change = (fields: { [field: string]: unknown }) =>
    edit({ kind: "change-repeat", repeat: repeat.id, ...fields });
  return (
    <>
      <CardHead id={repeat.id} name={repeat.name}>
        <span className="text-violet">{RULES[repeat.rule] ?? repeat.rule}, live</span>
        <span className="text-ink-soft">{tops.length} copies</span>
      </CardHead>
      {repeat.rule === "ring" && (
        <NumberField
          label="How many in all"
          value={repeat.count}
          decimals={0}
          step={0.1}
          min={2}
          max={1000}
          onKeep={(v) => void change({ count: Math.round(v) })}
        />
      )}
      {repeat.rule !== "series" &&
        (["X", "Y", "Z"] as const).map((axis, k) => (
          <NumberField
            key={axis}
            label={`${repeat.rule === "ring" ? "Axis" : "Plane"} through ${axis}`}
            unit="m"
            step={0.002}
            value={repeat.point[k] ?? 0}
            onKeep={(v) => void change({ point: repeat.point.map((p, i) => (i === k ? v : p)) })}
          />
        ))}
      {repeat.rule === "series" && (
        <div className="flex gap-4 py-1">
          <label className="flex gap-1.5">
            <input
              type="checkbox"
              className="accent-violet"
              checked={repeat.stand === "upright"}
              onChange={(e) => void change({ stand: e.target.checked ? "upright" : "" })}
            />
            upright
          </label>
          <label className="flex gap-1.5">
            <input
              type="checkbox"
              className="accent-violet"
              checked={!!repeat.ground}
              onChange={(e) => void change({ ground: e.target.checked })}
            />
            as low as the source stands
          </label>
        </div>
      )}
      <label className="flex gap-1.5 py-1" title="As instances: the parts themselves stay one">
        <input
          type="checkbox"
          className="accent-violet"
          checked={!!repeat.draws}
          onChange={(e) => void change({ draws: e.target.checked })}
        />
        copies are drawn with the parts fixed to the source
      </label>
      <Section title="Names of the copies">
        <form
          className="flex flex-col gap-1"
          onSubmit={(e) => {
            e.preventDefault();
            void change({ replace, pattern });
          }}
        >
          <label className="flex justify-between">
            in the source's name, replace
            <input
              className="field w-20 figure"
              value={replace}
              placeholder="all"
              onChange={(e) => setReplace(e.target.value)}
            />
          </label>
          <label className="flex justify-between">
            by
            <input
              className="field w-20 figure"
              value={pattern}
              placeholder={repeat.rule === "mirror" ? "other side" : "*_##"}
              onChange={(e) => setPattern(e.target.value)}
            />
          </label>
          <p className="text-ink-soft">
            # is the counter, * what is replaced: {tops.slice(0, 3).map(nameOf).join(", ")} …
          </p>
          <button
            type="submit"
            className="action self-start"
            disabled={replace === repeat.replace && pattern === repeat.pattern}
          >
            Name
          </button>
        </form>
      </Section>
      <Section title="Sources">
        {repeat.sources.map((id) => (
          <CardLink key={id} id={id} what="repeats" />
        ))}
        {repeat.stations.length > 0 && (
          <button type="button" className="underline text-left" onClick={() => setState({ chosen: repeat.stations })}>
            at {repeat.stations.length} joints, {nameOf(repeat.stations[0] ?? "")} to{" "}
            {nameOf(repeat.stations.at(-1) ?? "")}
          </button>
        )}
      </Section>
      {repeat.differences.length > 0 && (
        <Section title="What copies keep of their own">
          {repeat.differences.map((own) => {
            const id = copies.find(([, o]) => o.copy === own.copy && o.of === own.of)?.[0];
            return (
              <div key={`${own.copy} ${own.of}`} className="flex justify-between">
                <button
                  type="button"
                  className="underline text-ochre-deep"
                  onClick={() => id && setState({ chosen: [id] })}
                >
                  ◆ {d.joints.concat().find((j) => j.id === id)?.name ?? `${nameOf(own.of)}, copy ${own.copy}`}
                </button>
                <button
                  type="button"
                  className="underline"
                  onClick={() => void edit({ kind: "drop-difference", repeat: repeat.id, copy: own.copy, of: own.of })}
                >
                  follow again
                </button>
              </div>
            );
          })}
        </Section>
      )}
      <div className="flex flex-wrap gap-2 mt-3">
        <button type="button" className="action" onClick={() => setState({ chosen: tops })}>
          Choose the copies
        </button>
        <button
          type="button"
          className="action"
          onClick={() => void edit({ kind: "detach-repeat", repeat: repeat.id })}
        >
          Detach
        </button>
        <button
          type="button"
          className="action"
          onClick={() => void edit({ kind: "remove-repeat", repeat: repeat.id })}
        >
          Remove
        </button>
      </div>
    </>
  );
}
