import { useMemo, useRef, useState } from "react";
import { choose } from "../stage/pointer";
import { look } from "../stage/view";
import { setState, useDocument, useMyriapod } from "../store";
import { layOut } from "./layout";

const INK = { L: "var(--color-teal)", R: "var(--color-plum)", C: "var(--color-ink)" };
const HEIGHT = 132;

/** BodyMap is the creature as a schematic under the stage: to find, choose and name things in it. */
export function BodyMap() {
  const d = useDocument();
  const chosen = useMyriapod((s) => s.chosen);
  const hovered = useMyriapod((s) => s.hovered);
  const findings = useMyriapod((s) => s.specimen?.findings);
  const raised = useMyriapod((s) => s.raised);
  const layout = useMemo(() => (d ? layOut(d) : undefined), [d]);
  const [seen, setSeen] = useState({ x: 0, y: 0, zoom: 1 });
  const drag = useRef<{ x: number; y: number; from: typeof seen; moved: boolean }>(undefined);
  const svg = useRef<SVGSVGElement>(null);
  if (!d || !layout) return null;

  const width = layout.width + 150;
  const rows = Math.max(1, layout.trunks.length);
  const height = Math.max(HEIGHT, rows * 90 + 42);
  const box = {
    x: -56 + seen.x,
    y: -height / 2 + ((rows - 1) * 90) / 2 + seen.y,
    w: width / seen.zoom,
    h: height / seen.zoom,
  };
  const flagged = new Map([...(findings ?? []), ...raised].map((f) => [f.subject, f.text]));
  const lit = (id: string) => chosen.includes(id) || hovered === id;
  const events = (id: string, name: string, what: string) => ({
    role: "button",
    tabIndex: chosen.includes(id) ? 0 : -1,
    "aria-label": `${what} ${name}`,
    "aria-pressed": chosen.includes(id),
    className: "cursor-pointer",
    onPointerEnter: () => setState({ hovered: id }),
    onPointerLeave: () => setState({ hovered: undefined }),
    onClick: (e: { shiftKey: boolean; stopPropagation(): void }) => {
      e.stopPropagation();
      choose(id, e.shiftKey);
    },
    onDoubleClick: () => void look(undefined, [id]),
    onKeyDown: (e: { key: string }) => (e.key === "Enter" || e.key === " ") && choose(id, false),
  });
  const label = (id: string, name: string, x: number, y: number) =>
    lit(id) && (
      <text
        x={x}
        y={y}
        textAnchor="middle"
        fontSize={11 / Math.sqrt(seen.zoom)}
        className="pointer-events-none"
        fill="var(--color-ink)"
        paintOrder="stroke"
        stroke="var(--color-paper)"
        strokeWidth="3"
      >
        {name}
      </text>
    );

  return (
    <section aria-label="Body map" className="relative h-[132px] mt-1.5">
      <h2 className="caption absolute left-2 -top-0.5 pointer-events-none">Body map</h2>
      <p className="absolute left-1/2 -translate-x-1/2 top-0 flex gap-4 text-ink-soft pointer-events-none">
        <span>
          <b className="text-ochre-deep">◇</b> control
        </span>
        <span>○ joint</span>
        <span>
          <b className="text-violet">⏟</b> mechanism
        </span>
        <span>
          <b className="text-vermilion">⚑</b> finding
        </span>
        <span>
          {d.joints.length} joints · {d.controls.length} controls
        </span>
      </p>
      <button
        type="button"
        className="absolute right-2 top-0 text-ink-soft underline z-10"
        onClick={() => setSeen({ x: 0, y: 0, zoom: 1 })}
      >
        fit
      </button>
      <svg
        ref={svg}
        viewBox={`${box.x} ${box.y} ${box.w} ${box.h}`}
        className="w-full h-full touch-none"
        preserveAspectRatio="xMidYMid meet"
        onWheel={(e) => {
          const area = svg.current?.getBoundingClientRect();
          if (!area) return;
          const zoom = Math.min(16, Math.max(1, seen.zoom * (e.deltaY < 0 ? 1.2 : 1 / 1.2)));
          const [px, py] = [(e.clientX - area.left) / area.width, (e.clientY - area.top) / area.height];
          setSeen({
            zoom,
            x: seen.x + px * (box.w - width / zoom),
            y: seen.y + (py - 0.5) * (box.h - height / zoom) * 0.5,
          });
        }}
        onPointerDown={(e) => {
          drag.current = { x: e.clientX, y: e.clientY, from: seen, moved: false };
        }}
        onPointerMove={(e) => {
          const area = svg.current?.getBoundingClientRect();
          if (!drag.current || !area) return;
          const [dx, dy] = [e.clientX - drag.current.x, e.clientY - drag.current.y];
          if (Math.hypot(dx, dy) > 4) drag.current.moved = true;
          if (drag.current.moved)
            setSeen({
              ...seen,
              x: drag.current.from.x - (dx / area.width) * box.w,
              y: drag.current.from.y - (dy / area.height) * box.h,
            });
        }}
        onPointerUp={() => {
          if (drag.current && !drag.current.moved && !hovered) setState({ chosen: [] });
          drag.current = undefined;
        }}
        onPointerLeave={() => {
          drag.current = undefined;
        }}
      >
        <title>Body map: the creature from tail (left) to head (right)</title>
        {layout.stations.length === 0 && (
          <text
            x={width / 2 - 56}
            y={4}
            textAnchor="middle"
            className="font-serif italic"
            fontSize="15"
            fill="var(--color-ink-soft)"
          >
            No joints yet: the map grows as the skeleton is laid.
          </text>
        )}
        {layout.trunks.map((t) => (
          <g key={t.y}>
            <line
              x1={t.x1}
              x2={t.x2}
              y1={t.y}
              y2={t.y}
              stroke="var(--color-ink)"
              strokeWidth="4"
              strokeLinecap="round"
            />
            <text
              x={t.x1 - 14}
              y={t.y + 4}
              textAnchor="end"
              className="font-serif italic"
              fontSize="13"
              fill="var(--color-ink-soft)"
            >
              tail
            </text>
            <text x={t.x2 + 14} y={t.y + 4} className="font-serif italic" fontSize="13" fill="var(--color-ink-soft)">
              head
            </text>
          </g>
        ))}
        {layout.braces.map((b) => (
          <g key={b.id} {...events(b.id, b.name, "mechanism")}>
            <path
              d={b.wave ? wavePath(b.x1, b.x2, b.y) : `M${b.x1} ${b.y - 6}V${b.y}H${b.x2}V${b.y - 6}`}
              fill="none"
              stroke={b.on ? "var(--color-violet)" : "var(--color-locked)"}
              strokeWidth={lit(b.id) ? 3 : 1.6}
              strokeDasharray={b.on ? undefined : "4 3"}
            />
            <path d={`M${b.x1} ${b.y}H${b.x2}`} stroke="transparent" strokeWidth="12" />
            <text
              x={Math.min(b.x1, b.x2) + 20}
              y={b.y + 4}
              fontSize="11"
              fill="var(--color-violet)"
              paintOrder="stroke"
              stroke="var(--color-paper)"
              strokeWidth="6"
            >
              {b.name}
            </text>
          </g>
        ))}
        {layout.limbs.map((l) => (
          <line
            key={l.to.id}
            x1={l.from.x}
            y1={l.from.y}
            x2={l.to.x}
            y2={l.to.y}
            stroke={INK[l.to.side]}
            strokeWidth="1.6"
          />
        ))}
        {layout.stations.map((s) => (
          <g key={s.id} {...events(s.id, s.name, "joint")}>
            <circle cx={s.x} cy={s.y} r="10" fill="transparent" />
            <circle
              cx={s.x}
              cy={s.y}
              r={lit(s.id) ? 6 : 4.4}
              fill={chosen.includes(s.id) ? "var(--color-violet)" : "var(--color-plate)"}
              stroke={INK[s.side]}
              strokeWidth="1.5"
            />
            {flagged.has(s.id) && (
              <text x={s.x} y={s.y - 10} fontSize="13" textAnchor="middle" fill="var(--color-vermilion)">
                ⚑
              </text>
            )}
            {chosen.length < 6 && label(s.id, s.name, s.x, s.y + 18)}
          </g>
        ))}
        {layout.marks.map((m) => (
          <g key={m.id} {...events(m.id, m.name, "control")}>
            <path
              d={
                m.root
                  ? `M${m.x - 7} ${m.y - 7}L${m.x + 9} ${m.y}L${m.x - 7} ${m.y + 7}L${m.x - 3} ${m.y}Z`
                  : `M${m.x} ${m.y - 7}L${m.x + 7} ${m.y}L${m.x} ${m.y + 7}L${m.x - 7} ${m.y}Z`
              }
              fill={
                chosen.includes(m.id) ? "var(--color-violet)" : hovered === m.id ? "var(--color-plate)" : "transparent"
              }
              stroke={chosen.includes(m.id) ? "var(--color-violet)" : "var(--color-ochre)"}
              strokeWidth="2"
            />
            {label(m.id, m.name, m.x, m.y - 11)}
          </g>
        ))}
      </svg>
    </section>
  );
}

function wavePath(x1: number, x2: number, y: number): string {
  const points = Array.from(
    { length: 81 },
    (_, i) => `${x1 + ((x2 - x1) * i) / 80} ${y + 4 * Math.sin(i / 3) * (0.3 + (0.7 * i) / 80)}`,
  );
  return `M${points.join("L")}`;
}
