import { startShaping } from "../stage/shaping";
import { setState, useMyriapod } from "../state/store";

/** PlacingNote says what a click or drag on the stage does now, while it does something out of the way. */
export function PlacingNote() {
  const placing = useMyriapod((s) => s.placing?.title);
  const shaping = useMyriapod((s) => s.shaping?.control);
  if (!placing && !shaping) return null;
  return (
    <div className="absolute top-3 left-1/2 -translate-x-1/2 bg-paper border border-ink rounded-md px-3 py-2 flex gap-3 items-center shadow">
      <span>{placing ?? "Drag the shape to move it; with Shift it grows, with Alt it turns."}</span>
      <button
        type="button"
        className="action"
        onClick={() => {
          setState({ placing: undefined });
          startShaping();
        }}
      >
        Done <span className="key">Esc</span>
      </button>
    </div>
  );
}
