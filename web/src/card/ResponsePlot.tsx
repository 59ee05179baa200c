import { useRef, useState } from "react";
import { figure } from "../text/numbers";
import type { Point } from "../wire/parameter.gen";
import type { Tell } from "../wire/wire.gen";

const [WIDTH, HEIGHT, EDGE] = [250, 110, 7];
const BARB = 13; // half the length of a barb
const fine = 1 / 50; // of the plot's range: one press of an arrow key

interface ResponsePlotProps {
  curve: NonNullable<Tell["curves"]>[string];
  points: Point[];
  reads?: number; // what it reads now
  said(value: number): string;
  onTry(points?: Point[]): void;
  onKeep(points: Point[]): void;
}

/** ResponsePlot draws what a response answers. Its points are dragged, or moved with the arrow keys; a barb through each shows its slope. */
export function ResponsePlot({ curve, points, reads, said, onTry, onKeep }: ResponsePlotProps) {
  const svg = useRef<SVGSVGElement>(null);
  const [dragged, setDragged] = useState<Point[]>();
  const shown = dragged ?? points;
  const values = [...curve.values, ...shown.map((p) => p[1])];
  const low = Math.min(...values);
  const high = Math.max(...values) > low ? Math.max(...values) : low + 1;
  const span = curve.to - curve.from;
  const x = (at: number) => EDGE + ((at - curve.from) / span) * (WIDTH - 2 * EDGE);
  const y = (value: number) => HEIGHT - EDGE - ((value - low) / (high - low)) * (HEIGHT - 2 * EDGE);
  const placed = (i: number, [at, answer]: Point): Point[] => {
    const near = span * 1e-3;
    const before = shown[i - 1]?.[0] ?? Number.NEGATIVE_INFINITY;
    const after = shown[i + 1]?.[0] ?? Number.POSITIVE_INFINITY;
    return shown.map((p, k): Point => (k === i ? [Math.min(after - near, Math.max(before + near, at)), answer] : p));
  };
  const under = (e: { clientX: number; clientY: number }): Point => {
    const box = svg.current?.getBoundingClientRect();
    const across = ((e.clientX - (box?.left ?? 0)) / (box?.width || 1)) * WIDTH;
    const down = ((e.clientY - (box?.top ?? 0)) / (box?.height || 1)) * HEIGHT;
    return [
      curve.from + ((across - EDGE) / (WIDTH - 2 * EDGE)) * span,
      low + ((HEIGHT - EDGE - down) / (HEIGHT - 2 * EDGE)) * (high - low),
    ];
  };
  const nudge = (i: number, along: number, up: number) => {
    const p = points[i];
    if (p) onKeep(placed(i, [p[0] + along * fine * span, p[1] + up * fine * (high - low)]));
  };
  const line = curve.values
    .map((v, i) => `${x(curve.from + (span * i) / (curve.values.length - 1)).toFixed(1)},${y(v).toFixed(1)}`)
    .join(" ");
  return (
    <svg
      ref={svg}
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="w-full bg-plate border-l border-b border-rule touch-none"
      data-answers={points.length}
    >
      <title>What it answers: drag the points, or move them with the arrow keys</title>
      <polyline points={line} fill="none" stroke="var(--color-violet)" strokeWidth="1.6" opacity={dragged ? 0.4 : 1} />
      {dragged && (
        <polyline
          points={dragged.map((p) => `${x(p[0])},${y(p[1])}`).join(" ")}
          fill="none"
          stroke="var(--color-violet)"
          strokeDasharray="3 3"
        />
      )}
      {reads !== undefined && reads >= curve.from && reads <= curve.to && (
        <line x1={x(reads)} x2={x(reads)} y1="0" y2={HEIGHT} stroke="var(--color-vermilion)" />
      )}
      {shown.map((p, i) => {
        const [right, up] = [(WIDTH - 2 * EDGE) / span, (-(curve.slopes[i] ?? 0) * (HEIGHT - 2 * EDGE)) / (high - low)];
        const long = Math.hypot(right, up) || 1;
        const [dx, dy] = [(BARB * right) / long, (BARB * up) / long];
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: a point has no name but its place
          <g key={i}>
            {!dragged && (
              <line
                x1={x(p[0]) - dx}
                x2={x(p[0]) + dx}
                y1={y(p[1]) - dy}
                y2={y(p[1]) + dy}
                stroke="var(--color-ink)"
                strokeWidth="1.2"
              />
            )}
            <circle
              role="slider"
              tabIndex={0}
              aria-label={`Point ${i + 1}, at ${figure(p[0])}`}
              aria-valuenow={p[1]}
              aria-valuetext={said(p[1])}
              cx={x(p[0])}
              cy={y(p[1])}
              r="4.5"
              fill="var(--color-violet)"
              stroke="var(--color-plate)"
              strokeWidth="1.5"
              onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
              onPointerMove={(e) => {
                if (!e.currentTarget.hasPointerCapture(e.pointerId)) return;
                const next = placed(i, under(e));
                setDragged(next);
                onTry(next);
              }}
              onPointerUp={() => {
                if (dragged) onKeep(dragged);
                setDragged(undefined);
                onTry(undefined);
              }}
              onKeyDown={(e) => {
                if (e.key === "ArrowUp") nudge(i, 0, 1);
                else if (e.key === "ArrowDown") nudge(i, 0, -1);
                else if (e.key === "ArrowLeft") nudge(i, -1, 0);
                else if (e.key === "ArrowRight") nudge(i, 1, 0);
                else return;
                e.preventDefault();
                e.stopPropagation(); // the key is for the point, not for the rig
              }}
            />
          </g>
        );
      })}
    </svg>
  );
}
