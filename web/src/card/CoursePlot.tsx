import { useEffect, useState } from "react";
import { courseOf } from "../server/asking";
import { documentOf, useMyriapod } from "../state/store";
import { figure } from "../text/numbers";
import type { Course } from "../wire/course.gen";
import type { Change } from "../wire/edits.gen";
import type { Address } from "../wire/rig.gen";

const WIDTH = 240;
const HEIGHT = 84;

const mostOthers = 5; // drawn beside the one that is looked at

interface CoursePlotProps {
  of: Address;
  others: Address[]; // what has the same formula, drawn faintly
  trial?: Change;
  said(value: number): string;
}

/** CoursePlot draws how a number goes along the clip: what hand or clip say of it, and what comes of that; with a change, as it would go after it. */
export function CoursePlot({ of, others, trial, said }: CoursePlotProps) {
  const clip = useMyriapod((s) => s.clip);
  const sequence = useMyriapod((s) => s.specimen?.sequence);
  const time = useMyriapod((s) => s.time);
  const [course, setCourse] = useState<Course>();
  const tried = JSON.stringify(trial);
  useEffect(() => {
    if (sequence === undefined) return;
    const stop = new AbortController();
    void courseOf(
      { of: { of: of.of, key: of.key }, clip, edit: tried ? JSON.parse(tried) : undefined },
      stop.signal,
    ).then((found) => found && !stop.signal.aborted && setCourse(found));
    return () => stop.abort();
  }, [of.of, of.key, clip, sequence, tried]);
  const [beside, setBeside] = useState<Course[]>([]);
  const listed = JSON.stringify(others.slice(0, mostOthers));
  useEffect(() => {
    if (sequence === undefined) return;
    const stop = new AbortController();
    const asked = (JSON.parse(listed) as Address[]).map((other) => courseOf({ of: other, clip }, stop.signal));
    void Promise.all(asked).then((found) => !stop.signal.aborted && setBeside(found.filter((c) => c !== undefined)));
    return () => stop.abort();
  }, [clip, sequence, listed]);
  if (!course) return null;
  const all = [...course.made, ...course.below, ...beside.flatMap((c) => c.made)];
  const low = Math.min(...all);
  const range = Math.max(...all) - low;
  const x = (i: number) => (WIDTH * i) / (course.made.length - 1);
  const y = (v: number) => (range > 0 ? HEIGHT - 6 - ((HEIGHT - 12) * (v - low)) / range : HEIGHT / 2);
  const line = (values: number[]) => values.map((v, i) => `${x(i).toFixed(1)},${y(v).toFixed(1)}`).join(" ");
  const now = (WIDTH * (time * documentOf().fps - course.start)) / (course.end - course.start || 1);
  const limits = [course.min, course.max].filter((v) => v !== undefined && v >= low && v <= low + range) as number[];
  const seam = course.loops && course.seam > 1e-6 * Math.max(Math.abs(course.least), Math.abs(course.most));
  return (
    <figure className="my-1" data-plot={course.made.length} data-trial={trial ? "" : undefined}>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        className="w-full border-l border-b border-rule bg-plate"
        role="img"
        aria-label={`From ${said(course.least)} to ${said(course.most)} along the clip`}
      >
        {limits.map((v) => (
          <line key={v} x1="0" x2={WIDTH} y1={y(v)} y2={y(v)} stroke="var(--color-vermilion)" strokeDasharray="2 3" />
        ))}
        {beside.map((c, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: they have no names here
          <polyline key={i} points={line(c.made)} fill="none" stroke="var(--color-violet)" opacity="0.25" />
        ))}
        <polyline points={line(course.below)} fill="none" stroke="var(--color-ink-soft)" strokeDasharray="4 3" />
        <polyline points={line(course.made)} fill="none" stroke="var(--color-violet)" strokeWidth="1.6" />
        {now >= 0 && now <= WIDTH && <line x1={now} x2={now} y1="0" y2={HEIGHT} stroke="var(--color-vermilion)" />}
      </svg>
      <figcaption className="text-ink-soft leading-snug">
        {trial && <span className="text-violet">as typed · </span>}
        from <span className="figure">{said(course.least)}</span> to <span className="figure">{said(course.most)}</span>
        ; dashed: without drivers
        {course.stopped > 0 && (
          <span className="text-vermilion-deep">
            {` · held back in ${figure((100 * course.stopped) / course.made.length)} % of the clip`}
          </span>
        )}
        {seam && (
          <span className="text-vermilion-deep">{` · the loop's end lies ${said(course.seam)} from its beginning`}</span>
        )}
      </figcaption>
    </figure>
  );
}
