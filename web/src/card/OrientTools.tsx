import { useState } from "react";
import { edit } from "../server/session";
import { DEGREE } from "../text/numbers";
import type { Joint } from "../wire/rig.gen";
import { NumberField } from "./NumberField";
import { Section } from "./parts";

const SECONDS = [
  { value: "carried", title: "carried along, no roll" },
  { value: "plane", title: "in the chain's best plane" },
  { value: "toward +Y", title: "towards up (+Y)" },
  { value: "toward +Z", title: "towards front (+Z)" },
  { value: "toward +X", title: "towards left (+X)" },
  { value: "toward -X", title: "towards right (-X)" },
  { value: "as is", title: "as it is" },
];
export const ORDERS = ["XYZ", "XZY", "YXZ", "YZX", "ZXY", "ZYX"];

/** directionOf reads a signed axis, like -X. */
const directionOf = (text: string) =>
  ["X", "Y", "Z"].map((a) => (text.endsWith(a) ? (text.includes("-") ? -1 : 1) : 0));

/** OrientTools aims joints and turns their second axes. Nothing moves by it. */
export function OrientTools({ joints }: { joints: Joint[] }) {
  const [aim, setAim] = useState(true);
  const [second, setSecond] = useState("carried");
  const [roll, setRoll] = useState(0);
  const [order, setOrder] = useState(joints[0]?.order ?? "");
  return (
    <Section title="Orient">
      <label className="flex gap-2">
        <input type="checkbox" checked={aim} onChange={(e) => setAim(e.target.checked)} className="accent-violet" />
        main axis at the child
      </label>
      <label className="flex justify-between gap-2">
        Second axis
        <select className="field" value={second} onChange={(e) => setSecond(e.target.value)}>
          {SECONDS.map((s) => (
            <option key={s.value} value={s.value}>
              {s.title}
            </option>
          ))}
        </select>
      </label>
      <NumberField label="Roll on top" unit="°" decimals={1} step={1} value={roll} onTry={setRoll} onKeep={setRoll} />
      <label className="flex justify-between gap-2">
        Rotation order
        <select className="field" value={order} onChange={(e) => setOrder(e.target.value)}>
          <option value="">as it is</option>
          {ORDERS.map((o) => (
            <option key={o}>{o}</option>
          ))}
        </select>
      </label>
      <button
        type="button"
        className="action mt-1.5"
        onClick={() =>
          void edit({
            kind: "orient-joints",
            joints: joints.map((j) => j.id),
            aim,
            second: second.startsWith("toward") ? "toward" : second,
            direction: directionOf(second),
            roll: roll * DEGREE,
            ...(order ? { order } : {}),
          })
        }
      >
        Orient {joints.length > 1 ? `${joints.length} joints` : ""}
      </button>
    </Section>
  );
}
