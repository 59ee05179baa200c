import { dismiss } from "../server/session";
import { useMyriapod } from "../state/store";

/** Notices tells what was done and what was refused, and what to do about it. */
export function Notices() {
  const notices = useMyriapod((s) => s.notices);
  const job = useMyriapod((s) => s.job);
  return (
    <div
      className="fixed bottom-4 left-1/2 -translate-x-1/2 z-50 flex flex-col gap-2 items-center pointer-events-none"
      role="status"
      aria-live="polite"
    >
      {job && (
        <div className="bg-ink text-plate rounded-md px-4 py-2 flex gap-3 items-center shadow-lg">
          <span>{job.title}</span>
          <progress value={job.share} max={1} aria-label={job.title} className="w-40" />
          <button type="button" className="underline pointer-events-auto" onClick={job.stop}>
            Stop
          </button>
        </div>
      )}
      {notices.map((n) => (
        <div
          key={n.id}
          data-notice={n.kind}
          className={`rounded-md px-4 py-2 flex gap-3 items-start shadow-lg max-w-[640px] ${n.kind === "refused" ? "bg-vermilion-deep text-white" : "bg-ink text-plate"}`}
        >
          <span>{n.text}</span>
          {n.action && (
            <button
              type="button"
              className="underline whitespace-nowrap pointer-events-auto"
              onClick={() => {
                n.action?.run();
                dismiss(n.id);
              }}
            >
              {n.action.title}
            </button>
          )}
          <button
            type="button"
            className="pointer-events-auto"
            aria-label="Close this notice"
            onClick={() => dismiss(n.id)}
          >
            ×
          </button>
        </div>
      ))}
    </div>
  );
}
