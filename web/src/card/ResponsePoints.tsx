import { edit } from "../server/session";
import { figure } from "../text/numbers";
import type { Point } from "../wire/parameter.gen";
import type { Driver } from "../wire/rig.gen";
import { letGoOf } from "../work/motion";
import { NumberField } from "./NumberField";

interface ResponsePointsProps {
  driver: Driver;
  points: Point[];
  reads?: number; // what it reads now, as shown
  answers?: number; // what it would have to answer for the number to stay as it stands with the hand let go, as shown
  unit: string;
}

/** ResponsePoints lists what a response answers, and takes the present pose as one more point of it. */
export function ResponsePoints({ driver, points, reads, answers, unit }: ResponsePointsProps) {
  const take = (at: number, answer: number) => edit({ kind: "take-point", id: driver.id, at, answer });
  return (
    <div className="flex flex-col" data-points={points.length}>
      {points.map(([at, answer]) => (
        <div key={at} className="flex items-center gap-1">
          <div className="grow">
            <NumberField
              label={`at ${figure(at)}`}
              unit={unit}
              min={-1e9}
              max={1e9}
              step={0.1}
              decimals={3}
              value={answer}
              onKeep={(value) => void take(at, value)}
            />
          </div>
          <button
            type="button"
            aria-label={`Take the point at ${figure(at)} away`}
            className="text-ink-soft hover:text-ink"
            disabled={points.length === 1}
            onClick={() => void edit({ kind: "take-point", id: driver.id, at, answer: 0, drop: true })}
          >
            ×
          </button>
        </div>
      ))}
      <div className="flex gap-2 items-center">
        <button
          type="button"
          className="action"
          disabled={reads === undefined || answers === undefined}
          title="Bring what is answered to a place, bring this number to where it should then be, and press: nothing moves"
          onClick={() =>
            void take(reads ?? 0, answers ?? 0).then((s) => s && letGoOf(driver.drives.of, driver.drives.key))
          }
        >
          Take
        </button>
        {reads !== undefined && answers === undefined && (
          <span className="text-ink-soft">Move it below the other drivers to take.</span>
        )}
        {reads !== undefined && answers !== undefined && (
          <span className="text-ink-soft">
            {`${figure(answers)} ${unit}`.trim()} at {figure(reads)}
          </span>
        )}
      </div>
    </div>
  );
}
