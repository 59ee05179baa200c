import { chosenControls } from "../channels";
import { edit } from "../session";
import { documentOf } from "../store";
import type { Control } from "../wire/rig.gen";
import { HangField } from "./HangField";
import { ORDERS } from "./OrientTools";
import { Section } from "./parts";

/** SpaceTools hangs controls on something else and chooses their rotation order. At rest nothing moves by it. */
export function SpaceTools({ control }: { control: Control }) {
  const d = documentOf();
  const ids = () => chosenControls().map((c) => c.id);
  const hang = (space: string) => void edit({ kind: "hang-controls", controls: ids(), space }, "Hanging");
  return (
    <Section title="Hang elsewhere">
      <HangField
        label="Control or joint to hang on"
        placeholder="on the one called"
        carriers={[...d.controls, ...d.joints].filter((t) => t.id !== control.id)}
        onHang={hang}
      />
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
          <button type="button" className="underline" onClick={() => hang("")}>
            on the world
          </button>
        )}
      </div>
    </Section>
  );
}
