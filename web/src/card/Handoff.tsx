import { useState } from "react";
import { api } from "../server/api";
import { attempt } from "../server/session";
import { useDocument, useMyriapod } from "../state/store";
import { difference } from "../text/numbers";
import type { Export } from "../wire/wire.gen";
import { Section } from "./parts";

const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

/** Handoff exports the rig and tells what reading the export back has shown. */
export function Handoff() {
  const d = useDocument();
  const id = useMyriapod((s) => s.specimen?.id);
  const [clip, setClip] = useState(d?.clips[0]?.id ?? "");
  const [job, setJob] = useState<Export>();
  if (!d || !id) return null;
  const chosen = d.clips.find((c) => c.id === clip);

  const start = async () => {
    let now = await attempt(() => api.startExport(id, clip ? { clip } : {}));
    while (now) {
      setJob(now);
      if (now.done) break;
      await pause(120);
      const job = now.job;
      now = await attempt(() => api.export(job));
    }
  };

  return (
    <>
      <p>
        Hand the rig over as GLB, with its motion baked. Every export is read back and compared with the rig, vertex by
        vertex.
      </p>
      <label className="flex justify-between my-2">
        Clip
        <select className="field" value={clip} onChange={(e) => setClip(e.target.value)}>
          {d.clips.map((c) => (
            <option key={c.id} value={c.id}>
              {c.name}
            </option>
          ))}
          <option value="">none, the rest pose</option>
        </select>
      </label>
      {chosen && (
        <p className="text-ink-soft mb-2">
          frames {chosen.start} to {chosen.end} at {d.fps} a second
        </p>
      )}
      <div className="flex flex-wrap gap-2">
        <button type="button" className="action action-main" disabled={job && !job.done} onClick={() => void start()}>
          Export GLB
        </button>
        <a className="action" href={`/api/specimens/${id}/rig.json`} download>
          Rig file (JSON)
        </a>
      </div>
      {job && !job.done && (
        <div className="mt-3 flex gap-3 items-center">
          <progress value={job.share} max={1} aria-label="Export" className="grow" />
          <button type="button" className="action" onClick={() => void attempt(() => api.stopExport(job.job))}>
            Stop
          </button>
        </div>
      )}
      {job?.error && <p className="text-vermilion-deep mt-3">{job.error}</p>}
      {job?.report && (
        <Section title="Read back and compared">
          <p
            className={job.report.share <= 1e-5 ? "text-teal-deep" : "text-vermilion-deep"}
            data-export={job.report.greatest}
            data-export-share={job.report.share}
          >
            greatest difference <b className="figure">{difference(job.report.greatest)}</b>
            <br />
            {(job.report.share * 1e6).toFixed(2)} millionths of the model's size,{" "}
            {job.report.part && `at ${job.report.part}, `}frame {job.report.frame}
          </p>
          <p className="text-ink-soft">
            {job.report.frames} frames, {job.report.vertices.toLocaleString("en")} vertices,{" "}
            {(job.bytes / 1024 / 1024).toFixed(2)} MB
          </p>
          {job.report.shapes > 0 && (
            <p className="text-ink-soft" data-shapes={job.report.shapes}>
              {`${job.report.shapes} keyed morph targets stand for what joints cannot say of ${job.report.shapesParts} ${job.report.shapesParts === 1 ? "part" : "parts"}; there the greatest difference is ${difference(job.report.shapesGreatest)}.`}
            </p>
          )}
          <a className="action action-main inline-block mt-2" href={`/api/exports/${job.job}/file`} download>
            Save {job.name}
          </a>
        </Section>
      )}
    </>
  );
}
