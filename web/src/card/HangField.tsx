import { useId, useState } from "react";

interface HangFieldProps {
  label: string;
  placeholder: string;
  carriers: { id: string; name: string }[]; // what can be hung on
  verb?: string;
  onHang(carrier: string): void;
  also?: { verb: string; title: string; run(carrier: string): void }; // what else can be done with it
}

/** HangField asks by name what the chosen things are to hang on. */
export function HangField({ label, placeholder, carriers, verb = "Hang", onHang, also }: HangFieldProps) {
  const [name, setName] = useState("");
  const list = useId();
  const carrier = carriers.find((c) => c.name === name.trim());
  return (
    <form
      className="flex gap-2 items-center"
      onSubmit={(e) => {
        e.preventDefault();
        e.currentTarget.querySelector("input")?.blur(); // so that the next key is for the rig
        if (carrier) onHang(carrier.id);
      }}
    >
      <input
        aria-label={label}
        list={list}
        className="field grow figure min-w-0"
        placeholder={placeholder}
        value={name}
        onChange={(e) => setName(e.target.value)}
      />
      <datalist id={list}>
        {carriers.slice(0, 400).map((c) => (
          <option key={c.id} value={c.name} />
        ))}
      </datalist>
      <button type="submit" className="action" disabled={!carrier}>
        {verb}
      </button>
      {also && (
        <button
          type="button"
          className="action"
          title={also.title}
          disabled={!carrier}
          onClick={() => carrier && also.run(carrier.id)}
        >
          {also.verb}
        </button>
      )}
    </form>
  );
}
