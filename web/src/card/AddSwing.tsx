import { useState } from "react";
import { edit } from "../server/session";
import { documentOf } from "../state/store";
import type { Address } from "../wire/rig.gen";

/** AddSwing has numbers swing to and fro, by dials on a control that is chosen: the root where nothing is said. */
export function AddSwing({ drives, like, onAdded }: { drives: Address[]; like: string; onAdded(): void }) {
  const d = documentOf();
  const [name, setName] = useState("swing");
  const [on, setOn] = useState("");
  const controls = d.controls;
  const root = controls.find((c) => c.name === "root");
  const add = async () => {
    if (await edit({ kind: "add-swing", name: name.trim(), drives, like: like || undefined, on: on || root?.id }))
      onAdded();
  };
  return (
    <form
      className="flex flex-col gap-1"
      onSubmit={(e) => {
        e.preventDefault();
        void add();
      }}
    >
      <label className="flex gap-2 items-center text-ink-soft">
        <span className="whitespace-nowrap">called</span>
        <input
          aria-label="Name of the swing"
          className="field grow figure min-w-0"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
      </label>
      <div className="flex gap-2 items-center">
        <span className="text-ink-soft whitespace-nowrap">dials on</span>
        <select
          aria-label="Control with the dials of the swing"
          className="field grow min-w-0"
          value={on || root?.id}
          onChange={(e) => setOn(e.target.value)}
        >
          {controls.map((c) => (
            <option key={c.id} value={c.id}>
              {c.name}
            </option>
          ))}
        </select>
        <button type="submit" className="action">
          Make it swing
        </button>
      </div>
      <p className="text-ink-soft leading-snug">
        It gets dials: strength, amplitude, centre, rate in turns a second, and in turns phase, spread, and how much
        later the right side comes.
      </p>
    </form>
  );
}
