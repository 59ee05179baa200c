import { useState } from "react";
import { edit, moment } from "../server/session";
import type { Control, Dial } from "../wire/rig.gen";
import { chosenControls } from "../work/channels";
import { NumberField } from "./NumberField";
import { Section } from "./parts";

/** DialTools gives a control dials, and changes the range and the rest of those it has. */
export function DialTools({ control }: { control: Control }) {
  const [name, setName] = useState("");
  const dials = (control.dials ?? []).filter((d) => d.name !== "space" || !control.spaces?.length);
  return (
    <Section title="Dials">
      {dials.map((dial) => (
        <DialRow key={dial.name} control={control} dial={dial} />
      ))}
      <form
        className="flex gap-2 items-center"
        onSubmit={async (e) => {
          e.preventDefault();
          e.currentTarget.querySelector("input")?.blur();
          const dial = { name: name.trim(), min: 0, max: 1, default: 0 };
          if (await edit({ kind: "add-dial", controls: chosenControls().map((c) => c.id), dial })) setName("");
        }}
      >
        <input
          aria-label="Name of the new dial"
          className="field grow figure min-w-0"
          placeholder="name of a new dial"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <button type="submit" className="action" disabled={name.trim() === ""}>
          Add dial
        </button>
      </form>
    </Section>
  );
}

/** DialRow is a dial with the ends of its range and, between them, its value at rest. */
function DialRow({ control, dial }: { control: Control; dial: Dial }) {
  const change = (now: Partial<Dial>) =>
    void edit({ kind: "change-dial", control: control.id, name: dial.name, dial: { ...dial, ...now }, ...moment() });
  const field = (key: "min" | "default" | "max", what: string) => (
    <NumberField
      hideLabel
      narrow
      label={`${dial.name}, ${what}`}
      unit={dial.unit ?? ""}
      value={dial[key]}
      step={(dial.max - dial.min) / 400}
      onKeep={(v) => change({ [key]: v })}
    />
  );
  return (
    <div className="flex flex-wrap items-center gap-x-1.5 mb-1.5">
      <input
        aria-label={`Rename the dial ${dial.name}`}
        className="bg-transparent border-b border-transparent hover:border-rule grow"
        defaultValue={dial.name}
        onBlur={(e) => {
          const wanted = e.target.value.trim();
          if (wanted && wanted !== dial.name) change({ name: wanted });
          else e.target.value = dial.name;
        }}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      />
      <input
        key={dial.unit ?? ""}
        aria-label={`${dial.name}, unit`}
        className="field w-8"
        placeholder="unit"
        defaultValue={dial.unit ?? ""}
        onBlur={(e) => e.target.value !== (dial.unit ?? "") && change({ unit: e.target.value.trim() })}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      />
      <button
        type="button"
        aria-label={`Take the dial ${dial.name} off`}
        className="w-6 text-ink-soft hover:text-ink"
        onClick={() => void edit({ kind: "remove-dial", control: control.id, name: dial.name })}
      >
        ×
      </button>
      <div className="w-full flex items-center gap-1 text-ink-soft">
        {field("min", "from")} to {field("max", "to")} rest {field("default", "at rest")}
      </div>
    </div>
  );
}
