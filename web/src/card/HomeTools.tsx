import { edit } from "../server/session";
import { documentOf } from "../state/store";
import type { Control } from "../wire/rig.gen";
import { makeHome } from "../work/building";
import { chosenControls } from "../work/channels";
import { HangField } from "./HangField";
import { Section } from "./parts";

/** HomeTools says where a control's zero is, and what it turns about. */
export function HomeTools({ control }: { control: Control }) {
  const d = documentOf();
  const controls = () => chosenControls().map((c) => c.id);
  const pivot = (place?: number[]) => void edit({ kind: "set-pivot", controls: controls(), place });
  const [x = 0, , z = 0] = control.position;
  return (
    <Section title="Home and pivot">
      <div className="flex flex-wrap gap-2">
        <button type="button" className="action" onClick={() => void makeHome(chosenControls())}>
          Make this home <span className="key">Shift+H</span>
        </button>
        {control.start && (
          <button type="button" className="action" onClick={() => void makeHome(chosenControls(), true)}>
            Home as built
          </button>
        )}
      </div>
      <p className="text-ink-soft mt-1.5">
        {control.pivot ? "Turns about a pivot apart." : "Turns about its own place."}
      </p>
      <HangField
        label="Joint or control to turn about"
        placeholder="about the one called"
        verb="Turn about"
        carriers={[...d.joints, ...d.controls].filter((t) => t.id !== control.id)}
        onHang={(id) => pivot([...d.joints, ...d.controls].find((t) => t.id === id)?.position)}
      />
      <div className="flex gap-3 mt-1">
        <button type="button" className="underline" onClick={() => pivot([x, 0, z])}>
          about the ground below
        </button>
        {control.pivot && (
          <button type="button" className="underline" onClick={() => pivot()}>
            about its own place
          </button>
        )}
      </div>
    </Section>
  );
}
