import { useState } from "react";
import { chosenControls } from "../channels";
import { edit } from "../session";
import { documentOf } from "../store";
import type { Control } from "../wire/rig.gen";
import { ORDERS } from "./OrientTools";
import { Section } from "./parts";

/** SpaceTools hangs controls on something else and chooses their rotation order. At rest nothing moves by it. */
export function SpaceTools({ control }: { control: Control }) {
  const d = documentOf();
  const [name, setName] = useState("");
  const ids = () => chosenControls().map((c) => c.id);
  const carriers = [...d.controls, ...d.joints].filter((t) => t.id !== control.id);
  const carrier = carriers.find((t) => t.name === name.trim());
  const hang = async (space: string) => {
    if (await edit({ kind: "hang-controls", controls: ids(), space }, "Hanging")) setName("");
  };
  return (
    <Section title="Hang elsewhere">
      <form
        className="flex gap-2 items-center"
        onSubmit={(e) => {
          e.preventDefault();
          e.currentTarget.querySelector("input")?.blur(); // so that the next key is for the rig
          if (carrier) void hang(carrier.id);
        }}
      >
        <input
          aria-label="Control or joint to hang on"
          list="carriers"
          className="field grow figure min-w-0"
          placeholder="on the one called"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <datalist id="carriers">
          {carriers.slice(0, 400).map((t) => (
            <option key={t.id} value={t.name} />
          ))}
        </datalist>
        <button type="submit" className="action" disabled={!carrier}>
          Hang
        </button>
      </form>
      <div className="flex justify-between items-center mt-1">
        <label className="flex gap-2 items-center">
          Rotation order
          <select
            className="field"
            value={control.order}
            onChange={(e) => void edit({ kind: "order-controls", controls: ids(), order: e.target.value })}
          >
            {ORDERS.map((o) => (
              <option key={o}>{o}</option>
            ))}
          </select>
        </label>
        {control.space && (
          <button type="button" className="underline" onClick={() => void hang("")}>
            on the world
          </button>
        )}
      </div>
    </Section>
  );
}
