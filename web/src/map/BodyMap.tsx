import { useMemo, useRef, useState } from "react";
import { choose } from "../stage/pointer";
import type { Side } from "../stage/side";
import { look } from "../stage/view";
import { setState, useDocument, useMyriapod, useOrigins } from "../state/store";
import { type Label, nextTo, spread } from "./labels";
import { type Brace, layOut, type MapDrawing, type Spot } from "./layout";

const INK: Record<Side, string> = { L: "var(--color-teal)", R: "var(--color-plum)", C: "var(--color-ink)" };

const path = (points: Spot[]) => `M${points.map((p) => `${p.x} ${p.y}`).join("L")}`;

/** ARROWS are the ways in which the arrow keys go on the map. */
const ARROWS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

/** BodyMap is the creature as a schematic under the stage: to find, choose and name things in it. */
export function BodyMap() {
  const d = useDocument();
  const origins = useOrigins();
  const chosen = useMyriapod((s) => s.chosen);
  const hovered = useMyriapod((s) => s.hovered);
  const openLimbs = useMyriapod((s) => s.openLimbs);
  const findings = useMyriapod((s) => s.specimen?.findings);
  const raised = useMyriapod((s) => s.raised);
  const idle = useMyriapod((s) => (s.frame?.idle ?? []).join(""));
  const folded = useMemo(() => (d ? layOut(d, origins) : undefined), [d, origins]);
  // A limb opens by itself while something in it is chosen.
  const open = useMemo(() => {
    const set = new Set(openLimbs);
    const picked = new Set(chosen);
    for (const f of folded?.folds ?? []) if (f.joints.some((id) => picked.has(id))) set.add(f.id);
    return set;
  }, [openLimbs, chosen, folded]);
  const layout = useMemo(() => (d ? layOut(d, origins, open) : undefined), [d, origins, open]);
  const [seen, setSeen] = useState({ x: 0, y: 0, zoom: 1 });
  const drag = useRef<{ x: number; y: number; from: typeof seen; moved: boolean }>(undefined);
  const svg = useRef<SVGSVGElement>(null);
  if (!d || !layout || !folded) return null;

  const whole = layout.box;
  const box = { x: whole.x + seen.x, y: whole.y + seen.y, w: whole.w / seen.zoom, h: whole.h / seen.zoom };
  const flagged = new Map([...(findings ?? []), ...raised].map((f) => [f.subject, f.text]));
  for (const m of d.mechanisms) {
    const [text, tip] = [flagged.get(m.id), m.joints.at(-1)];
    if (text && tip) flagged.set(tip, text); // what a limb cannot do is flagged where its foot is
  }
  const places = [
    ...layout.stations,
    ...layout.marks,
    ...layout.folds.map((f) => ({ id: f.id, x: f.points.at(-1)?.x ?? 0, y: f.points.at(-1)?.y ?? 0 })),
  ];
  const sources = new Set(d.repeats.flatMap((r) => r.sources));
  const stop = places.find((p) => chosen.includes(p.id))?.id ?? places[0]?.id; // where the Tab key comes in
  const lit = (id: string) => chosen.includes(id) || hovered === id;
  const events = (id: string, name: string, what: string, twice: () => void = () => void look(undefined, [id])) => ({
    role: "button",
    tabIndex: id === stop ? 0 : -1,
    "data-map": id,
    "aria-label": `${what} ${name}`,
    "aria-pressed": chosen.includes(id),
    className: "cursor-pointer",
    onPointerEnter: () => setState({ hovered: id }),
    onPointerLeave: () => setState({ hovered: undefined }),
    onClick: (e: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean; stopPropagation(): void }) => {
      e.stopPropagation();
      choose(id, e.shiftKey || e.ctrlKey || e.metaKey);
    },
    onDoubleClick: twice,
    onKeyDown: (e: { key: string; shiftKey: boolean; preventDefault(): void }) => {
      const way = ARROWS[e.key];
      if (e.key === "Enter" || e.key === " ") choose(id, e.shiftKey);
      else if (way) {
        e.preventDefault();
        const next = nextTo(places.find((p) => p.id === id) ?? { x: 0, y: 0 }, places, ...way);
        if (!next) return;
        choose(next.id, e.shiftKey);
        requestAnimationFrame(() =>
          svg.current?.querySelector<SVGElement>(`[data-map="${CSS.escape(next.id)}"]`)?.focus(),
        );
      }
    },
  });
  const size = 11 / Math.sqrt(seen.zoom);
  const wanted: Label[] = [
    ...layout.marks.map((m) => ({ id: m.id, text: m.name, x: m.x, y: m.y - 11 })),
    ...layout.stations.map((s) => ({ id: s.id, text: s.name, x: s.x, y: s.y + (s.y > 10 ? 14 : s.trunk ? 18 : -7) })),
    ...layout.folds.map((f) => ({
      id: f.id,
      text: f.name,
      x: f.points.at(-1)?.x ?? 0,
      y: (f.points.at(-1)?.y ?? 0) - 6,
    })),
    ...layout.braces.map((b) => ({ id: b.id, text: b.name, x: b.points[0]?.x ?? 0, y: (b.points[0]?.y ?? 0) + 13 })),
  ].filter((l) => lit(l.id));
  // What is under the pointer is named before all else.
  const labels = spread(
    wanted.sort((a, b) => Number(b.id === hovered) - Number(a.id === hovered)),
    size,
  );
  const flag = (id: string, x: number, y: number) =>
    flagged.has(id) && (
      <text x={x} y={y - 8} fontSize="13" textAnchor="middle" fill="var(--color-vermilion)">
        ⚑<title>{flagged.get(id)}</title>
      </text>
    );

  return (
    <section aria-label="Body map" className="relative h-[132px] mt-1.5">
      <h2 className="caption absolute left-2 -top-0.5 pointer-events-none">Body map</h2>
      <p className="absolute left-1/2 -translate-x-1/2 top-0 flex gap-4 text-ink-soft pointer-events-none whitespace-nowrap">
        <span>
          <b className="text-ochre">◇</b> control
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
      <div className="absolute right-2 top-0 z-10 flex gap-3 text-ink-soft">
        {folded.folds.length > 0 && (
          <button
            type="button"
            className="underline"
            onClick={() => setState({ openLimbs: openLimbs.length > 0 ? [] : folded.folds.map((f) => f.id) })}
          >
            {layout.folds.length} folded · {openLimbs.length > 0 ? "fold" : "open all"}
          </button>
        )}
        <button type="button" className="underline" onClick={() => setSeen({ x: 0, y: 0, zoom: 1 })}>
          fit
        </button>
      </div>
      <svg
        ref={svg}
        viewBox={`${box.x} ${box.y} ${box.w} ${box.h}`}
        className="w-full h-full touch-none"
        preserveAspectRatio="xMidYMid meet"
        onWheel={(e) => {
          const area = svg.current?.getBoundingClientRect();
          if (!area) return;
          const zoom = Math.min(24, Math.max(1, seen.zoom * (e.deltaY < 0 ? 1.2 : 1 / 1.2)));
          const scale = Math.max(box.w / area.width, box.h / area.height);
          const px = box.x + box.w / 2 + (e.clientX - area.left - area.width / 2) * scale;
          const py = box.y + box.h / 2 + (e.clientY - area.top - area.height / 2) * scale;
          const share = seen.zoom / zoom; // what is under the pointer stays there
          setSeen({ zoom, x: px - (px - box.x) * share - whole.x, y: py - (py - box.y) * share - whole.y });
        }}
        onPointerDown={(e) => {
          drag.current = { x: e.clientX, y: e.clientY, from: seen, moved: false };
        }}
        onPointerMove={(e) => {
          const area = svg.current?.getBoundingClientRect();
          if (!drag.current || !area) return;
          const [dx, dy] = [e.clientX - drag.current.x, e.clientY - drag.current.y];
          if (Math.hypot(dx, dy) > 4) drag.current.moved = true;
          const scale = Math.max(box.w / area.width, box.h / area.height);
          if (drag.current.moved)
            setSeen({ ...seen, x: drag.current.from.x - dx * scale, y: drag.current.from.y - dy * scale });
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
            x={box.x + box.w / 2}
            y={4}
            textAnchor="middle"
            className="font-serif italic"
            fontSize="15"
            fill="var(--color-ink-soft)"
          >
            No joints yet: the map grows as the skeleton is laid.
          </text>
        )}
        <Trunks layout={layout} />
        {layout.lines
          .filter((l) => sources.has(l.key))
          .map((l) => (
            // biome-ignore lint/a11y/noStaticElementInteractions: as wide as the copies are to hit; the joint at its top does the same by keyboard
            <path
              key={l.key}
              d={path(l.points.slice(1))}
              fill="none"
              stroke="transparent"
              strokeWidth="12"
              className="cursor-pointer"
              onPointerEnter={() => setState({ hovered: l.key })}
              onPointerLeave={() => setState({ hovered: undefined })}
              onClick={(e) => {
                e.stopPropagation();
                choose(l.key, e.shiftKey);
              }}
            />
          ))}
        {layout.braces.map((b) => (
          <g key={b.id} {...events(b.id, b.name, "mechanism")}>
            <BraceLine brace={b} strong={lit(b.id)} />
          </g>
        ))}
        {layout.lines.map((l) => (
          <path
            key={l.key}
            d={path(l.points)}
            fill="none"
            stroke={INK[l.side]}
            strokeWidth={hovered === l.key ? 2.5 : 1.5}
            className="pointer-events-none"
          />
        ))}
        {layout.folds.map((f) => (
          <g key={f.key} {...events(f.id, f.name, "joint", () => setState({ openLimbs: [...openLimbs, f.id] }))}>
            <path d={path(f.points)} fill="none" stroke="transparent" strokeWidth="12" />
            <path
              d={path(f.points)}
              fill="none"
              stroke={hovered && f.joints.includes(hovered) ? "var(--color-violet)" : INK[f.side]}
              strokeWidth={lit(f.id) ? 3 : 1.3}
              opacity={origins[f.id]?.differs ? 1 : 0.75}
            />
            {f.joints.some((id) => origins[id]?.differs) && (
              <circle cx={f.points.at(-1)?.x} cy={f.points.at(-1)?.y} r="2.6" fill="var(--color-violet)">
                <title>It keeps something of its own.</title>
              </circle>
            )}
            {f.joints.map((id) => flag(id, f.points.at(-1)?.x ?? 0, f.points.at(-1)?.y ?? 0)).find(Boolean)}
          </g>
        ))}
        {layout.stations.map((s) => (
          <g key={s.id} {...events(s.id, s.name, "joint")}>
            <circle cx={s.x} cy={s.y} r={Math.max(3, s.radius * 1.6)} fill="transparent" />
            <circle
              cx={s.x}
              cy={s.y}
              r={s.radius * (lit(s.id) ? 1.45 : 1)}
              fill={
                chosen.includes(s.id)
                  ? "var(--color-violet)"
                  : origins[s.id]?.differs
                    ? "var(--color-ochre)"
                    : "var(--color-plate)"
              }
              stroke={INK[s.side]}
              strokeWidth={Math.min(1.5, s.radius * 0.4)}
              strokeDasharray={origins[s.id] ? "2 1" : undefined}
            />
            {flag(s.id, s.x, s.y)}
          </g>
        ))}
        {layout.marks.map((m) => (
          <g key={m.id} {...events(m.id, m.name, "control")} opacity={idle[m.index] === "1" ? 0.25 : 1}>
            {m.size >= 7 && <circle cx={m.x} cy={m.y} r={m.size + 3} fill="transparent" />}
            <path
              d={
                m.root
                  ? `M${m.x - 7} ${m.y - 7}L${m.x + 9} ${m.y}L${m.x - 7} ${m.y + 7}L${m.x - 3} ${m.y}Z`
                  : `M${m.x} ${m.y - m.size}L${m.x + m.size} ${m.y}L${m.x} ${m.y + m.size}L${m.x - m.size} ${m.y}Z`
              }
              fill={
                chosen.includes(m.id) ? "var(--color-violet)" : hovered === m.id ? "var(--color-plate)" : "transparent"
              }
              stroke={chosen.includes(m.id) ? "var(--color-violet)" : m.colour || "var(--color-ochre)"}
              strokeWidth={m.size > 5 ? 2 : 1.5}
            />
          </g>
        ))}
        {labels.map((l) => (
          <text
            key={l.id}
            x={l.x}
            y={l.y}
            textAnchor="middle"
            fontSize={size}
            className="pointer-events-none"
            fill="var(--color-ink)"
            paintOrder="stroke"
            stroke="var(--color-paper)"
            strokeWidth="3"
          >
            {l.text}
          </text>
        ))}
      </svg>
    </section>
  );
}

/** crowded tells whether something stands where the word behind a trunk's end would. */
const crowded = (layout: MapDrawing, x: number) =>
  [...layout.stations, ...layout.marks].some((s) => s.x > x + 4 && s.x < x + 52 && Math.abs(s.y) < 10);

function Trunks({ layout }: { layout: MapDrawing }) {
  const end = (x: number, anchor: "start" | "end", word: string) => (
    <text
      x={x}
      y={4}
      textAnchor={anchor}
      className="font-serif italic"
      fontSize="13"
      fill="var(--color-ink-soft)"
      paintOrder="stroke"
      stroke="var(--color-paper)"
      strokeWidth="4"
    >
      {word}
    </text>
  );
  return layout.trunks.map((t) => (
    <g key={t.x1}>
      <line
        x1={t.x1}
        x2={t.x2}
        y1={t.y}
        y2={t.y}
        stroke="var(--color-ink)"
        strokeWidth={layout.stations.length > 200 && layout.folds.length === 0 ? 1.5 : 4}
        strokeLinecap="round"
      />
      {t.head !== "none" && layout.trunks.length === 1 && (
        <>
          {end(t.x1 - 14, "end", "tail")}
          {!crowded(layout, t.x2) && end(t.x2 + 14, "start", "head")}
        </>
      )}
    </g>
  ));
}

function BraceLine({ brace: b, strong }: { brace: Brace; strong: boolean }) {
  const [first, last] = [b.points[0], b.points.at(-1)];
  if (!first || !last) return null;
  const straight = first.y === last.y;
  const drawn =
    b.wave && straight
      ? wave(first.x, last.x, first.y + (b.trunk ? 3 : 0), b.trunk ? 3.4 : 1.8)
      : straight
        ? `M${first.x} ${first.y - 5}V${first.y}H${last.x}V${last.y - 5}`
        : path(b.points);
  return (
    <>
      <path
        d={drawn}
        fill="none"
        stroke={b.on ? "var(--color-violet)" : "var(--color-locked)"}
        strokeWidth={strong ? 3 : straight ? 1.5 : 1}
        strokeDasharray={b.on ? undefined : "4 3"}
      />
      <path d={path([first, last])} stroke="transparent" strokeWidth="8" />
    </>
  );
}

function wave(x1: number, x2: number, y: number, height: number): string {
  const points = Array.from(
    { length: 81 },
    (_, i) => `${x1 + ((x2 - x1) * i) / 80} ${y + height * Math.sin(i / 3) * (0.3 + (0.7 * i) / 80)}`,
  );
  return `M${points.join("L")}`;
}
