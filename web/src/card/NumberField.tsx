import { useEffect, useLayoutEffect, useRef, useState } from "react";
import { notify } from "../server/session";
import { figure, readNumber } from "../text/numbers";

interface NumberFieldProps {
  label: string;
  value: number;
  unit?: string;
  step?: number; // per pixel dragged
  min?: number;
  max?: number;
  decimals?: number;
  hideLabel?: boolean;
  narrow?: boolean;
  onTry?(value: number): void; // while dragging
  onKeep(value: number, typed: boolean): void;
}

/** within says in words how far a number goes. */
function within(min: number, max: number, decimals: number, unit: string): string {
  const [low, high] = [min, max].map((end) => `${figure(end, decimals)}${unit && ` ${unit}`}`);
  if (min === -Infinity) return `at most ${high}`;
  return max === Infinity ? `at least ${low}` : `between ${low} and ${high}`;
}

/** beside is the number before or after one on the card. */
function beside(field: HTMLInputElement, by: number): HTMLInputElement | undefined {
  const all = [...document.querySelectorAll<HTMLInputElement>("aside input[data-number]")].filter(
    (f) => f.offsetParent,
  );
  return all[all.indexOf(field) + by];
}

/** NumberField is a number that can be typed, with arithmetic and units, dragged sideways, or stepped with the arrows. */
export function NumberField({
  label,
  value,
  unit = "",
  step = 0.01,
  min = -Infinity,
  max = Infinity,
  decimals = 3,
  hideLabel,
  narrow,
  onTry,
  onKeep,
}: NumberFieldProps) {
  const [text, setText] = useState<string>();
  const drag = useRef<{ x: number; from: number; now: number; moved: boolean }>(undefined);
  const input = useRef<HTMLInputElement>(null);
  const clamp = (n: number) => Math.min(max, Math.max(min, n));
  const shown = text ?? `${figure(value, decimals)}${unit && ` ${unit}`}`;
  const finish = () => {
    if (text === undefined) return;
    const read = readNumber(text, unit);
    setText(undefined);
    if (read === undefined)
      return notify("refused", `${label}: “${text}” is not a number. Write one, with + - * / or a unit if you like.`);
    if (clamp(read) !== read) notify("told", `${label} stays ${within(min, max, decimals, unit)}.`);
    if (clamp(read) !== value) onKeep(clamp(read), true);
  };
  const opened = useRef(false);
  // The text changes when the field is entered (its unit goes), which would undo the selection: select once it has.
  useLayoutEffect(() => {
    if (text !== undefined && opened.current) input.current?.select();
    opened.current = false;
  }, [text]);
  useEffect(() => {
    const element = input.current;
    const release = () => {
      const d = drag.current;
      drag.current = undefined;
      if (d?.moved) onKeep(d.now, false);
    };
    const move = (event: PointerEvent) => {
      const d = drag.current;
      if (!d) return;
      const by = event.clientX - d.x;
      if (!d.moved && Math.abs(by) < 3) return;
      d.moved = true;
      d.now = clamp(d.from + by * step * (event.shiftKey ? 0.1 : 1));
      (onTry ?? (() => {}))(d.now);
      element?.blur();
    };
    addEventListener("pointermove", move);
    addEventListener("pointerup", release);
    return () => {
      removeEventListener("pointermove", move);
      removeEventListener("pointerup", release);
    };
  });
  return (
    <label className="flex items-baseline justify-between gap-2">
      <span className={hideLabel ? "sr-only" : ""}>{label}</span>
      <input
        ref={input}
        data-number
        className={`field figure text-right cursor-ew-resize focus:cursor-text ${narrow ? "w-[66px]" : "w-[84px]"}`}
        value={shown}
        title="Type a number (arithmetic and units work) or drag sideways"
        onFocus={() => {
          opened.current = true;
          setText(figure(value, decimals));
        }}
        onChange={(e) => setText(e.target.value)}
        onBlur={finish}
        onPointerDown={(e) => {
          if (document.activeElement !== e.currentTarget)
            drag.current = { x: e.clientX, from: value, now: value, moved: false };
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.currentTarget.blur();
          else if (e.key === "Escape") {
            setText(undefined);
            requestAnimationFrame(() => input.current?.blur());
          } else if (e.key === "PageDown" || e.key === "PageUp") {
            e.preventDefault();
            beside(e.currentTarget, e.key === "PageDown" ? 1 : -1)?.focus();
          } else if (e.key === "ArrowUp" || e.key === "ArrowDown") {
            e.preventDefault();
            const next = clamp(value + (e.key === "ArrowUp" ? 1 : -1) * step * (e.shiftKey ? 1 : 10));
            setText(figure(next, decimals));
            onKeep(next, true);
          }
        }}
      />
    </label>
  );
}
