import { useMyriapod } from "../state/store";
import { NumberField } from "./NumberField";

/** ReachFields is how far a brush or hand reaches over the surface, and how strong it is where that counts. */
export function ReachFields({
  reach,
  strength,
  onChange,
}: {
  reach: number;
  strength?: number;
  onChange(now: { reach?: number; strength?: number }): void;
}) {
  const size = useMyriapod((s) => s.size);
  return (
    <>
      <NumberField
        label="Reach"
        unit="m"
        min={0.002 * size}
        max={size}
        step={0.001 * size}
        decimals={3}
        value={reach}
        onKeep={(now) => onChange({ reach: now })}
      />
      {strength !== undefined && (
        <NumberField
          label="Strength"
          min={0}
          max={1}
          step={0.005}
          value={strength}
          onKeep={(now) => onChange({ strength: now })}
        />
      )}
    </>
  );
}
