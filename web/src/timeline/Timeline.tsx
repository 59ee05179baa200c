import { useRef } from "react";
import { edit } from "../server/session";
import { setState, useDocument, useMyriapod } from "../state/store";
import type { Clip, Document, Mechanism } from "../wire/rig.gen";
import { deleteKeys, easeKeys, keyControls, moveKeys, play, presentFrame, scrub } from "../work/motion";

const LANE = 20;
const LABEL = 96;

interface Lane {
  id: string;
  name: string;
  frames: number[];
}

function lanesOf(d: Document, clip: Clip | undefined, chosen: string[]): Lane[] {
  const controls = d.controls.filter((c) => chosen.includes(c.id) || clip?.tracks.some((t) => t.control === c.id));
  return controls.map((c) => ({
    id: c.id,
    name: c.name,
    frames: [
      ...new Set((clip?.tracks ?? []).filter((t) => t.control === c.id).flatMap((t) => t.keys.map((k) => k.frame))),
    ].sort((a, b) => a - b),
  }));
}

/** wavePlot is the swing of a travelling wave over the frames shown. */
function wavePlot(m: Mechanism, from: number, to: number, fps: number, x: (frame: number) => number): string {
  const rate = Number(m.parameters.rate ?? 0);
  const phase = Number(m.parameters.phase ?? 0) / 360;
  const steps = Math.min(600, Math.max(60, Math.ceil(((to - from) / fps) * Math.abs(rate) * 16)));
  return Array.from({ length: steps + 1 }, (_, i) => {
    const frame = from + ((to - from) * i) / steps;
    return `${x(frame).toFixed(1)},${(LANE / 2 - (LANE / 2 - 3) * Math.sin(2 * Math.PI * (phase + (rate * frame) / fps))).toFixed(1)}`;
  }).join(" ");
}

/** Timeline is the band with the keys, there in Motion; in other steps only its play bar stands. */
export function Timeline() {
  const d = useDocument();
  const step = useMyriapod((s) => s.step);
  const playing = useMyriapod((s) => s.playing);
  const time = useMyriapod((s) => s.time);
  const clipId = useMyriapod((s) => s.clip);
  const chosen = useMyriapod((s) => s.chosen);
  const chosenKey = useMyriapod((s) => s.chosenKey);
  const area = useRef<SVGSVGElement>(null);
  const drag = useRef<{ lane?: string; frame: number; x: number; by: number }>(undefined);
  if (!d || step === "model" || step === "skeleton" || d.joints.length === 0) return <div />;

  const clip = d.clips.find((c) => c.id === clipId);
  const from = clip?.start ?? 0;
  const to = Math.max(clip?.end ?? 240, from + 1);
  const frame = time * d.fps;
  const width = 900;
  const x = (f: number) => LABEL + ((f - from) / (to - from)) * (width - LABEL - 14);
  const frameAt = (e: { clientX: number }) => {
    const box = area.current?.getBoundingClientRect();
    const at = ((e.clientX - (box?.left ?? 0)) / (box?.width ?? 1)) * width;
    return Math.round(from + ((at - LABEL) / (width - LABEL - 14)) * (to - from));
  };
  const lanes = step === "motion" ? lanesOf(d, clip, chosen) : [];
  const waves = step === "motion" ? d.mechanisms.filter((m) => m.on && m.parameters.rate !== undefined) : [];
  const height = 22 + LANE * (lanes.length + waves.length);
  const every =
    [1, 2, 4, 6, 12, 24, 48, 96, 240, 480, 1200].find((n) => (to - from) / n <= 24) ?? Math.ceil((to - from) / 12);
  const ticks = Array.from({ length: Math.floor((to - from) / every) + 1 }, (_, i) => from + i * every);
  const change = (values: Partial<Pick<Clip, "start" | "end" | "loop" | "preRoll">>) =>
    clip &&
    void edit({ kind: "change-clip", clip: clip.id, start: clip.start, end: clip.end, loop: clip.loop, ...values });

  return (
    <section aria-label="Timeline" className="border border-t-0 border-ink bg-plate px-2 py-1">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 min-h-7">
        <button type="button" className="action action-main" onClick={() => play()}>
          {playing ? "■ Stop" : "▶ Play"} <span className="key">Space</span>
        </button>
        <span className="figure w-28" data-time={time.toFixed(3)}>
          frame {Math.round(frame)}
        </span>
        <label>
          <span className="sr-only">Clip</span>
          <select
            className="field"
            value={clipId}
            onChange={(e) => setState({ clip: e.target.value, chosenKey: undefined })}
          >
            {d.clips.map((c) => (
              <option key={c.id} value={c.id}>
                {c.name}
              </option>
            ))}
            <option value="">no clip</option>
          </select>
        </label>
        {clip && step === "motion" && (
          <>
            <NumberEntry whole label="from" value={clip.start} onKeep={(start) => change({ start })} />
            <NumberEntry whole label="to" value={clip.end} onKeep={(end) => change({ end })} />
            <label className="flex gap-1.5">
              <input
                type="checkbox"
                checked={clip.loop}
                className="accent-violet"
                onChange={(e) => change({ loop: e.target.checked })}
              />{" "}
              loop
            </label>
            {d.drivers.length > 0 && (
              <NumberEntry
                label="pre-roll"
                title="How many seconds before the first frame what has memory begins"
                value={clip.preRoll ?? 0}
                onKeep={(preRoll) => change({ preRoll })}
              />
            )}
          </>
        )}
        {step === "motion" && (
          <button
            type="button"
            className="action"
            onClick={() =>
              void edit({ kind: "add-clip", name: "clip", start: 0, end: 48, loop: true }).then(
                (s) => s && setState({ clip: s.document.clips.at(-1)?.id ?? "" }),
              )
            }
          >
            New clip
          </button>
        )}
        <span className="grow" />
        {step === "motion" && chosenKey && clip && (
          <>
            <span className="text-ink-soft">keys at {chosenKey.frame}:</span>
            {["linear", "smooth", "stepped"].map((ease) => (
              <button
                key={ease}
                type="button"
                className="underline"
                onClick={() => void easeKeys(chosenKey.control, chosenKey.frame, ease)}
              >
                {ease}
              </button>
            ))}
            <button
              type="button"
              className="underline text-vermilion-deep"
              onClick={() => void deleteKeys(chosenKey.control, chosenKey.frame)}
            >
              delete
            </button>
          </>
        )}
        {step === "motion" && !chosenKey && (
          <button
            type="button"
            className="action"
            disabled={!d.controls.some((c) => chosen.includes(c.id))}
            title="Key the chosen controls at this frame"
            onClick={() => void keyControls(d.controls.filter((c) => chosen.includes(c.id)).map((c) => c.id))}
          >
            Key <span className="key">K</span>
          </button>
        )}
      </div>
      <div
        role="slider"
        tabIndex={0}
        className="touch-none select-none"
        aria-label="Time, in frames"
        aria-valuemin={from}
        aria-valuemax={to}
        aria-valuenow={Math.round(frame)}
        onKeyDown={(e) => {
          const by = { ArrowLeft: -1, ArrowRight: 1, PageUp: -every, PageDown: every }[e.key];
          if (by === undefined) return;
          e.preventDefault();
          scrub(Math.min(to, Math.max(from, presentFrame() + by)));
        }}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          const key = (e.target as Element).getAttribute("data-key");
          const lane = key?.split("@")[0];
          const at = key ? Number(key.split("@")[1]) : frameAt(e);
          drag.current = { lane, frame: at, x: frameAt(e), by: 0 };
          if (lane) setState({ chosenKey: { control: lane, frame: at }, chosen: [lane] });
          else {
            setState({ chosenKey: undefined });
            scrub(Math.min(to, Math.max(from, at)));
          }
        }}
        onPointerMove={(e) => {
          const d = drag.current;
          if (!d) return;
          if (!d.lane) return scrub(Math.min(to, Math.max(from, frameAt(e))));
          d.by = frameAt(e) - d.x;
          const mark = area.current?.querySelector(`[data-key="${d.lane}@${d.frame}"]`);
          mark?.setAttribute("transform", `translate(${x(d.frame + d.by) - x(d.frame)} 0)`);
        }}
        onPointerUp={() => {
          const d = drag.current;
          drag.current = undefined;
          if (d?.lane && d.by !== 0) void moveKeys(d.lane, d.frame, d.by);
          else if (d?.lane) scrub(d.frame);
        }}
      >
        <svg ref={area} viewBox={`0 0 ${width} ${height}`} className="w-full block">
          <title>Timeline: drag to scrub, drag a key to move it</title>
          {ticks.map((f) => (
            <g key={f}>
              <line x1={x(f)} x2={x(f)} y1="12" y2={height} stroke="var(--color-rule)" />
              <text x={x(f)} y="10" textAnchor="middle" fontSize="10" className="figure" fill="var(--color-ink-soft)">
                {f}
              </text>
            </g>
          ))}
          {waves.map((m, i) => (
            <g key={m.id} transform={`translate(0 ${18 + LANE * i})`}>
              <text x="2" y="14" fontSize="11" fill="var(--color-violet)">
                {m.name}
              </text>
              <polyline
                points={wavePlot(m, from, to, d.fps, x)}
                fill="none"
                stroke="var(--color-violet)"
                strokeWidth="1.2"
              />
            </g>
          ))}
          {lanes.map((lane, i) => {
            const y = 18 + LANE * (waves.length + i) + LANE / 2;
            return (
              <g key={lane.id}>
                <text x="2" y={y + 4} fontSize="11" fill="var(--color-ochre-deep)">
                  {lane.name}
                </text>
                <line x1={x(from)} x2={x(to)} y1={y} y2={y} stroke="var(--color-rule)" />
                {lane.frames.map((f) => {
                  const lit = chosenKey?.control === lane.id && chosenKey.frame === f;
                  return (
                    <path
                      key={f}
                      data-key={`${lane.id}@${f}`}
                      d={`M${x(f)} ${y - 7}L${x(f) + 6} ${y}L${x(f)} ${y + 7}L${x(f) - 6} ${y}Z`}
                      fill={lit ? "var(--color-violet)" : "var(--color-ochre)"}
                      stroke="var(--color-ink)"
                      className="cursor-ew-resize"
                    />
                  );
                })}
              </g>
            );
          })}
          <line
            x1={x(frame)}
            x2={x(frame)}
            y1="0"
            y2={height}
            stroke="var(--color-vermilion)"
            strokeWidth="1.6"
            pointerEvents="none"
          />
        </svg>
      </div>
      {step === "motion" && lanes.every((l) => l.frames.length === 0) && (
        <p className="caption">No keys yet: choose a control, pose it and press K.</p>
      )}
    </section>
  );
}

interface NumberEntryProps {
  label: string;
  title?: string;
  value: number;
  whole?: boolean;
  onKeep(value: number): void;
}

function NumberEntry({ label, title, value, whole, onKeep }: NumberEntryProps) {
  return (
    <label title={title}>
      {label}{" "}
      <input
        key={value}
        className="field figure w-12"
        inputMode="numeric"
        defaultValue={value}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
        onBlur={(e) => {
          const read = whole ? Number.parseInt(e.target.value, 10) : Number.parseFloat(e.target.value);
          if (Number.isFinite(read) && read !== value) onKeep(read);
          else e.target.value = String(value);
        }}
      />
    </label>
  );
}
