import { useRef } from "react";
import type { Point, Value } from "../wire/parameter.gen";

const [WIDTH, HEIGHT] = [250, 52];

/** ProfileField is a curve over the length of a chain: drag its corners, double-click to add or take one away. */
export function ProfileField({
  title,
  min,
  max,
  points,
  onTry,
  onKeep,
}: {
  title: string;
  min: number;
  max: number;
  points: Point[];
  onTry(value: Value): void;
  onKeep(value?: Value): void;
}) {
  const svg = useRef<SVGSVGElement>(null);
  const low = Math.min(0, ...points.map((p) => p[1]), min < 0 ? -0.2 : 0);
  const high = Math.max(1, ...points.map((p) => p[1])) * 1.08;
  const x = (at: number) => 6 + at * (WIDTH - 12);
  const y = (value: number) => HEIGHT - 5 - ((value - low) / (high - low)) * (HEIGHT - 10);
  const read = (e: { clientX: number; clientY: number }): Point => {
    const box = svg.current?.getBoundingClientRect();
    const at = (((e.clientX - (box?.left ?? 0)) / (box?.width ?? 1)) * WIDTH - 6) / (WIDTH - 12);
    const value =
      low +
      ((HEIGHT - 5 - ((e.clientY - (box?.top ?? 0)) / (box?.height ?? 1)) * HEIGHT) / (HEIGHT - 10)) * (high - low);
    return [Math.min(1, Math.max(0, at)), Math.min(max, Math.max(min, value))];
  };
  const moved = (i: number, to: Point): Point[] => {
    const before = points[i - 1]?.[0] ?? -0.01;
    const after = points[i + 1]?.[0] ?? 1.01;
    const at =
      i === 0 || i === points.length - 1
        ? (points[i]?.[0] ?? 0)
        : Math.min(after - 0.01, Math.max(before + 0.01, to[0]));
    return points.map((p, k): Point => (k === i ? [at, Math.round(to[1] * 1000) / 1000] : p));
  };
  const nudge = (i: number, along: number, by: number) => {
    const p = points[i];
    if (p) onKeep(moved(i, [p[0] + along, Math.min(max, Math.max(min, p[1] + by))]));
  };
  const addAfter = (i: number) => {
    const [a, b] = [points[i], points[i + 1] ?? points[i - 1]];
    if (a && b && Math.abs(a[0] - b[0]) > 0.04)
      onKeep([...points, [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2] as Point].sort((p, q) => p[0] - q[0]));
  };
  const remove = (i: number) => points.length > 1 && onKeep(points.filter((_, k) => k !== i));
  const line = [[0, points[0]?.[1] ?? 0], ...points, [1, points.at(-1)?.[1] ?? 0]]
    .map(([at, v]) => `${x(at ?? 0)},${y(v ?? 0)}`)
    .join(" ");
  return (
    <div>
      <span>{title}</span>
      <svg
        ref={svg}
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        className="w-full bg-plate border border-rule rounded-sm touch-none"
        onDoubleClick={(e) => {
          if (e.target !== svg.current) return;
          const p = read(e);
          if (points.every((q) => Math.abs(q[0] - p[0]) > 0.02)) onKeep([...points, p].sort((a, b) => a[0] - b[0]));
        }}
      >
        <title>{`${title}: drag the corners, or move them with the arrow keys; double-click or + adds one, double-click or Delete takes one away`}</title>
        <line x1={x(0)} x2={x(1)} y1={y(0)} y2={y(0)} stroke="var(--color-rule)" />
        <polyline points={line} fill="none" stroke="var(--color-violet)" strokeWidth="1.8" pointerEvents="none" />
        {points.map((p, i) => (
          <circle
            // biome-ignore lint/suspicious/noArrayIndexKey: a corner has no name but its place
            key={i}
            role="slider"
            tabIndex={0}
            aria-label={`${title}, corner ${i + 1} at ${p[0].toFixed(2)}`}
            aria-valuenow={p[1]}
            aria-valuemin={min}
            aria-valuemax={max}
            cx={x(p[0])}
            cy={y(p[1])}
            r="5"
            fill="var(--color-violet)"
            stroke="var(--color-plate)"
            strokeWidth="1.5"
            onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
            onPointerMove={(e) => e.currentTarget.hasPointerCapture(e.pointerId) && onTry(moved(i, read(e)))}
            onPointerUp={() => onKeep()}
            onDoubleClick={() => remove(i)}
            onKeyDown={(e) => {
              if (e.key === "ArrowUp") nudge(i, 0, 0.02);
              else if (e.key === "ArrowDown") nudge(i, 0, -0.02);
              else if (e.key === "ArrowLeft") nudge(i, -0.02, 0);
              else if (e.key === "ArrowRight") nudge(i, 0.02, 0);
              else if (e.key === "Insert" || e.key === "+") addAfter(i);
              else if (e.key === "Delete" || e.key === "Backspace") remove(i);
              else return;
              e.preventDefault();
              e.stopPropagation(); // the key is for the corner, not for the rig
            }}
          />
        ))}
      </svg>
    </div>
  );
}
