import { Quaternion, Vector3 } from "three";
import { edit } from "../server/session";
import { documentOf, setState } from "../state/store";
import type { Control } from "../wire/rig.gen";
import { makeHome } from "../work/building";
import { chosenControls } from "../work/channels";
import { HangField } from "./HangField";
import { NumberField } from "./NumberField";
import { Section } from "./parts";

/** pivotOf is the place in the world at rest that a control turns about. */
function pivotOf(control: Control): number[] {
  const [px = 0, py = 0, pz = 0] = control.pivot ?? [];
  const own = new Vector3(control.mirrored ? -px : px, py, pz);
  const [qx = 0, qy = 0, qz = 0, qw = 1] = control.rotation;
  return own
    .applyQuaternion(new Quaternion(qx, qy, qz, qw))
    .add(new Vector3(...control.position))
    .toArray();
}

/** HomeTools says where a control's zero is, and what it turns about. */
export function HomeTools({ control }: { control: Control }) {
  const d = documentOf();
  const controls = () => chosenControls().map((c) => c.id);
  const pivot = (place?: number[]) => void edit({ kind: "set-pivot", controls: controls(), place });
  const [x = 0, , z = 0] = control.position;
  const place = pivotOf(control);
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
      <details className="mt-1">
        <summary className="underline cursor-pointer">about a place by numbers</summary>
        {(["X", "Y", "Z"] as const).map((axis, i) => (
          <NumberField
            key={axis}
            label={`Pivot ${axis}`}
            unit="m"
            value={place[i] ?? 0}
            onKeep={(v) => v !== place[i] && pivot([...place].with(i, v))}
          />
        ))}
      </details>
      <div className="flex flex-wrap gap-x-3 mt-1">
        <button
          type="button"
          className="underline"
          onClick={() =>
            setState({
              placing: {
                title: `Click on the model where ${control.name} shall turn about.`,
                take: (place) => pivot([...place]),
              },
            })
          }
        >
          about a pick on the model
        </button>
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
