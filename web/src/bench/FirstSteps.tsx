import { setState, useMyriapod } from "../state/store";

const TRIES = [
  "Drag one of the rings around the body: it follows, and springs back when you let go.",
  "Press Space to play what it can do, or draw along the timeline.",
  "Click a joint and read in the margin what moves it, and what it moves.",
];

/** FirstSteps tells somebody who is here for the first time what to try. */
export function FirstSteps() {
  const first = useMyriapod((s) => s.first);
  if (!first) return null;
  return (
    <section
      aria-label="Three things to try"
      className="absolute right-3 top-3 w-72 bg-plate border border-ink rounded-sm p-3 z-10"
    >
      <h2 className="caption">Three things to try</h2>
      <ol className="list-decimal pl-5 my-1.5 flex flex-col gap-1">
        {TRIES.map((text) => (
          <li key={text}>{text}</li>
        ))}
      </ol>
      <button type="button" className="action" onClick={() => setState({ first: false })}>
        Begin
      </button>
    </section>
  );
}
