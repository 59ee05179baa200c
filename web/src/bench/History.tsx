import { goTo } from "../server/session";
import { setState, useMyriapod } from "../state/store";
import { lineOf } from "./line";

/** History is every edit with its time; any of them can be gone back to, those that were undone too. */
export function History() {
  const history = useMyriapod((s) => s.history);
  if (!history) return null;
  const line = lineOf(history);
  const present = history.find((e) => e.present)?.number ?? 0;
  return (
    <section
      aria-label="History"
      className="absolute right-0 top-0 bottom-0 w-72 bg-paper border-l border-ink flex flex-col z-10"
    >
      <div className="flex justify-between p-2 border-b border-rule">
        <h2 className="caption">History · {history.length} states</h2>
        <button type="button" aria-label="Close the history" onClick={() => setState({ history: undefined })}>
          ×
        </button>
      </div>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling list must be reachable by keyboard */}
      <ol className="overflow-y-auto grow p-1" tabIndex={0} aria-label="Edits, the newest first">
        {history.map((e) => (
          <li key={e.number}>
            <button
              type="button"
              aria-current={e.present ? "true" : undefined}
              disabled={e.present}
              className={`w-full text-left px-2 py-0.5 rounded-sm flex gap-2 ${e.present ? "bg-ink text-plate" : "hover:bg-plate"}`}
              onClick={() => void goTo(e.number, e.title)}
              title={
                line.has(e.number)
                  ? "Go back to here"
                  : e.number > present
                    ? "Go on to here"
                    : "On another way; go there"
              }
            >
              <span className={`grow ${line.has(e.number) || e.present ? "" : "italic opacity-80"}`}>
                {line.has(e.number) ? "" : "↷ "}
                {e.title}
              </span>
              <span className="figure opacity-80 whitespace-nowrap">
                {new Date(e.made).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit", second: "2-digit" })}
              </span>
            </button>
          </li>
        ))}
      </ol>
      <p className="p-2 border-t border-rule text-ink-soft">↷ was undone, or is another way that was left. It stays.</p>
    </section>
  );
}
