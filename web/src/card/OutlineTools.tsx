import { edit } from "../server/session";
import { startShaping } from "../stage/shaping";
import { useMyriapod } from "../state/store";
import { DEGREE } from "../text/numbers";
import type { Control, Shape } from "../wire/rig.gen";
import { chosenControls } from "../work/channels";
import { NumberField } from "./NumberField";
import { Section } from "./parts";

export const SHAPES: { shape: Shape; title: string }[] = [
  { shape: "collar", title: "collar, fitted" },
  { shape: "crescent", title: "collar, behind only" },
  { shape: "sole", title: "sole, on the ground" },
  { shape: "pennant", title: "pennant" },
  { shape: "hoop", title: "hoop" },
  { shape: "square", title: "square" },
  { shape: "lozenge", title: "lozenge" },
  { shape: "cross", title: "cross" },
];

/** OutlineTools gives the chosen controls a shape, a size, a place along their axis and a colour. */
export function OutlineTools({ control }: { control: Control }) {
  const controls = () => chosenControls().map((c) => c.id);
  const shape = (change: object) => void edit({ kind: "shape-controls", controls: controls(), ...change }, "Shaping");
  const byHand = useMyriapod((s) => s.shaping?.control === control.id);
  const reach = Math.max(...control.outline.map((p) => Math.hypot(...p)), 0.01);
  return (
    <Section title="Shape">
      <div className="flex flex-wrap items-center gap-2">
        <select
          aria-label="Shape"
          className="field"
          value={control.shape}
          onChange={(e) => shape({ shape: e.target.value })}
        >
          {SHAPES.map(({ shape, title }) => (
            <option key={shape} value={shape}>
              {title}
            </option>
          ))}
        </select>
        <button type="button" className="action" aria-label="Smaller" onClick={() => shape({ size: 1 / 1.2 })}>
          −
        </button>
        <button type="button" className="action" aria-label="Larger" onClick={() => shape({ size: 1.2 })}>
          +
        </button>
        <button type="button" className="action" onClick={() => shape({ shape: control.shape })}>
          Fit anew
        </button>
      </div>
      <button
        type="button"
        className="action mt-1.5"
        aria-pressed={byHand}
        onClick={() => startShaping(byHand ? undefined : control.id)}
      >
        {byHand ? "✓ By hand on the stage" : "By hand on the stage"}
      </button>
      <details className="mt-1">
        <summary className="underline cursor-pointer">by numbers</summary>
        {(["X", "Y", "Z"] as const).map((axis, i) => (
          <NumberField
            key={axis}
            label={`Set it along ${axis} by`}
            unit="m"
            value={0}
            step={0.01 * reach}
            onKeep={(by) => by !== 0 && shape({ move: [0, 0, 0].with(i, by) })}
          />
        ))}
        {(["X", "Y", "Z"] as const).map((axis, i) => (
          <NumberField
            key={axis}
            label={`Turn it about ${axis} by`}
            unit="°"
            decimals={1}
            value={0}
            step={1}
            onKeep={(by) => {
              const half = (by * DEGREE) / 2;
              if (by !== 0) shape({ turn: [0, 0, 0, Math.cos(half)].with(i, Math.sin(half)) });
            }}
          />
        ))}
      </details>
      <div className="flex items-center justify-between mt-1.5">
        <label className="flex items-center gap-2">
          Colour
          <input
            type="color"
            className="w-8 h-5"
            value={control.colour || "#b1741a"}
            onChange={(e) => void edit({ kind: "colour-controls", controls: controls(), colour: e.target.value })}
          />
        </label>
        {control.colour && (
          <button
            type="button"
            className="underline"
            onClick={() => void edit({ kind: "colour-controls", controls: controls(), colour: "" })}
          >
            as its side
          </button>
        )}
      </div>
    </Section>
  );
}
