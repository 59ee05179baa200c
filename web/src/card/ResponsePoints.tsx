import { edit } from "../server/session";
import { documentOf, useMyriapod } from "../state/store";
import { figure } from "../text/numbers";
import type { Change } from "../wire/edits.gen";
import type { Point } from "../wire/parameter.gen";
import type { Driver } from "../wire/rig.gen";
import { letGoOf } from "../work/motion";
import { NumberField } from "./NumberField";
import { ResponsePlot } from "./ResponsePlot";

interface ResponsePointsProps {
  driver: Driver;
  points: Point[];
  reads?: number; // what it reads now, as shown
  answers?: number; // what it would have to answer for the number to stay as it stands with the hand let go, as shown
  unit: string;
  said(value: number): string;
  onTry(change?: Change): void;
}

/** ResponsePoints plots and lists what a response answers, and takes the present pose as one more point of it. */
export function ResponsePoints({ driver, points, reads, answers, unit, said, onTry }: ResponsePointsProps) {
  const curve = useMyriapod((s) => s.curves[driver.id]);
  const poses = documentOf().drivers.filter(
    (x) => x.kind === driver.kind && x.by[0]?.of === driver.by[0]?.of && x.by[0]?.key === driver.by[0]?.key,
  ).length;
  const changed = (points: Point[]): Change => ({ kind: "change-driver", id: driver.id, parameters: { points } });
  const mirror = (all: boolean) => void edit({ kind: "mirror-response", id: driver.id, all });
  const take = (at: number, answer: number) => edit({ kind: "take-point", id: driver.id, at, answer });
  return (
    <div className="flex flex-col" data-points={points.length}>
      {curve && curve.slopes.length === points.length && (
        <ResponsePlot
          curve={curve}
          points={points}
          reads={reads}
          said={said}
          onTry={(points) => onTry(points && changed(points))}
          onKeep={(points) => void edit(changed(points))}
        />
      )}
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
      <div className="flex flex-wrap gap-x-2 gap-y-1 items-center">
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
        <button
          type="button"
          className="action"
          title="Have the other side's number answer in the same way"
          onClick={() => mirror(false)}
        >
          Mirror
        </button>
        {poses > 1 && (
          <button
            type="button"
            className="action"
            title="Have the other sides of all that answers the same number answer in the same way"
            onClick={() => mirror(true)}
          >
            {`Mirror all ${poses}`}
          </button>
        )}
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
