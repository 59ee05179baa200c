import { Switch } from "@headlessui/react";
import { type ReactNode, useState } from "react";
import { documentOf } from "../state/store";
import type { Declaration, Point, Value } from "../wire/parameter.gen";
import type { Address } from "../wire/rig.gen";
import { Drivers } from "./Drivers";
import { HangField } from "./HangField";
import { NumberField } from "./NumberField";
import { ProfileField } from "./ProfileField";
import { CardLink } from "./parts";

/** Ranges that are wide open are drawn over a stretch that a hand can aim at; typing reaches the rest. */
function sliderRange(d: Declaration, value: number): [number, number] {
  const start = typeof d.default === "number" ? d.default : 0;
  const wide = Math.max(Math.abs(start) * 4, Math.abs(value) * 1.5, d.unit === "°" ? 720 : 0.5);
  return [Math.max(d.min, d.min < 0 ? -wide : 0), Math.min(d.max, wide)];
}

/** ParameterRow draws one parameter of a mechanism as the core declares it. */
export function ParameterRow({
  declaration: d,
  value,
  driven,
  of,
  onTry,
  onKeep,
  onDrive,
}: {
  declaration: Declaration;
  value: Value;
  of: Address;
  driven?: Address; // the dial that gives it its value
  onTry(value: Value): void;
  onKeep(value?: Value): void;
  onDrive(control?: string): void; // by a dial of the control, or by none
}) {
  const [asking, setAsking] = useState(false);
  const [open, setOpen] = useState(false);
  const drivers = open && <Drivers of={of} unit={d.unit ?? ""} />;
  const look = (
    <button
      type="button"
      className="text-ink-soft hover:text-ink hover:underline"
      aria-label={`Drive ${d.title}`}
      aria-expanded={open}
      onClick={() => setOpen(!open)}
    >
      drive
    </button>
  );
  if (driven)
    return (
      <div className="border-b border-dotted border-rule py-1.5" title={d.help}>
        <div className="flex items-center gap-1">
          <span className="w-[92px]">{d.title}</span>
          <div className="grow">
            <CardLink id={driven.of} what="◇ by" note={driven.key} />
          </div>
          <button
            type="button"
            className="text-ink-soft hover:text-ink hover:underline"
            aria-label={`Free ${d.title} from its dial`}
            onClick={() => onDrive()}
          >
            free
          </button>
          {look}
        </div>
        {drivers}
      </div>
    );
  return (
    <div className="border-b border-dotted border-rule py-1.5" title={d.help}>
      {d.type === "number" && typeof value === "number" && (
        <NumberRow d={d} value={value} onTry={onTry} onKeep={onKeep}>
          {d.dial && (
            <button
              type="button"
              aria-label={`Drive ${d.title} by a dial`}
              aria-expanded={asking}
              title="Let a dial of a control give this value"
              className="text-ink-soft hover:text-ink hover:underline"
              onClick={() => setAsking(!asking)}
            >
              dial
            </button>
          )}
          {d.dial && look}
        </NumberRow>
      )}
      {drivers}
      {asking && (
        <HangField
          label={`Control whose dial drives ${d.title}`}
          placeholder="by a dial of"
          verb="Drive"
          carriers={documentOf().controls}
          onHang={(control) => {
            setAsking(false);
            onDrive(control);
          }}
        />
      )}
      {d.type === "toggle" && (
        <span className="flex justify-between">
          {d.title}
          <Switch
            checked={value === true}
            onChange={(on) => onKeep(on)}
            aria-label={d.title}
            className="w-8 h-4 rounded-full border border-ink data-checked:bg-violet"
          />
        </span>
      )}
      {d.type === "choice" && (
        <label className="flex justify-between">
          {d.title}
          <select className="field" value={String(value)} onChange={(e) => onKeep(e.target.value)}>
            {d.choices?.map((c) => (
              <option key={c}>{c}</option>
            ))}
          </select>
        </label>
      )}
      {d.type === "profile" && Array.isArray(value) && (
        <ProfileField title={d.title} min={d.min} max={d.max} points={value as Point[]} onTry={onTry} onKeep={onKeep} />
      )}
    </div>
  );
}

function NumberRow({
  d,
  value,
  onTry,
  onKeep,
  children,
}: {
  d: Declaration;
  value: number;
  onTry(value: Value): void;
  onKeep(value?: Value): void;
  children?: ReactNode;
}) {
  const [low, high] = sliderRange(d, value);
  const step = (high - low) / 400;
  return (
    <div
      className={`grid items-center ${d.dial ? "grid-cols-[78px_minmax(40px,1fr)_auto_auto_auto] gap-1.5" : "grid-cols-[92px_1fr_auto] gap-2"}`}
    >
      <span>{d.title}</span>
      <input
        type="range"
        aria-label={`${d.title}, slider`}
        className="accent-violet w-full h-4"
        min={low}
        max={high}
        step={d.whole ? 1 : "any"}
        value={value}
        onChange={(e) => onTry(Number(e.target.value))}
        onPointerUp={() => onKeep()}
        onKeyUp={(e) => e.key.startsWith("Arrow") && onKeep()}
      />
      <NumberField
        label={d.title}
        hideLabel
        narrow={d.dial}
        value={value}
        unit={d.unit}
        step={step}
        min={d.min}
        max={d.max}
        decimals={d.whole ? 0 : d.unit === "°" ? 1 : 3}
        onTry={onTry}
        onKeep={onKeep}
      />
      {children}
    </div>
  );
}
