import type { Declaration, Set as ParameterSet } from "../wire/parameter.gen";
import { NumberField } from "./NumberField";

/** numberOf is a number among options, or its default while nobody has said. */
const numberOf = (o: Declaration, values: ParameterSet) => Number(values[o.key] ?? o.default);

/** withDefaults is options as the core takes them. */
export const withDefaults = (declared: Declaration[], values: ParameterSet): ParameterSet =>
  Object.fromEntries(declared.map((o) => [o.key, values[o.key] ?? o.default]));

/** OptionFields asks for what is settled once, when a thing is built, as the core declares it. */
export function OptionFields({
  declared,
  values,
  onChange,
}: {
  declared: Declaration[];
  values: ParameterSet;
  onChange(values: ParameterSet): void;
}) {
  return declared.map((o) => {
    if (o.type === "toggle")
      return (
        <label key={o.key} className="flex gap-2" title={o.help}>
          <input
            type="checkbox"
            checked={(values[o.key] ?? o.default) === true}
            onChange={(e) => onChange({ ...values, [o.key]: e.target.checked })}
            className="accent-violet"
          />
          {o.title}
        </label>
      );
    if (o.type === "choice")
      return (
        <label key={o.key} className="flex justify-between" title={o.help}>
          {o.title}
          <select
            className="field"
            value={String(values[o.key] ?? o.default)}
            onChange={(e) => onChange({ ...values, [o.key]: e.target.value })}
          >
            {o.choices?.map((c) => (
              <option key={c}>{c}</option>
            ))}
          </select>
        </label>
      );
    const whole = o.whole === true;
    const set = (v: number) => onChange({ ...values, [o.key]: whole ? Math.round(v) : v });
    return (
      <NumberField
        key={o.key}
        label={o.title}
        value={numberOf(o, values)}
        decimals={whole ? 0 : 2}
        step={whole ? 0.1 : 0.01}
        min={o.min}
        max={o.max}
        onTry={set}
        onKeep={set}
      />
    );
  });
}
