import { edit, showHistory, travel } from "../server/session";
import { setState, useMyriapod } from "../state/store";

/** PlateHeader is the plate's top edge: the specimen's name, whether all is kept, undo, redo and the search. */
export function PlateHeader() {
  const specimen = useMyriapod((s) => s.specimen);
  const saving = useMyriapod((s) => s.saving);
  const open = useMyriapod((s) => s.open);
  const history = useMyriapod((s) => !!s.history);
  if (!specimen) return null;
  const kept = new Date(specimen.changed).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" });
  const word = !open ? "reconnecting…" : saving > 0 ? "keeping…" : `kept ${kept} · edit ${specimen.edits}`;
  return (
    <header className="flex items-center gap-4 border-b border-rule px-3 h-10 shrink-0">
      <h1 className="sr-only">{specimen.document.name}</h1>
      <input
        key={specimen.document.name}
        aria-label="Name of the specimen"
        className="font-serif text-xl bg-transparent w-48 min-w-32 border-b border-transparent hover:border-rule"
        defaultValue={specimen.document.name}
        onBlur={(e) => {
          const name = e.target.value.trim();
          if (name && name !== specimen.document.name) void edit({ kind: "change-specimen", name });
          else e.target.value = specimen.document.name;
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.currentTarget.blur();
          if (e.key === "Escape") {
            e.currentTarget.value = specimen.document.name;
            e.currentTarget.blur();
          }
        }}
      />
      <span
        className="text-ink-soft whitespace-nowrap"
        data-saved={open && saving === 0}
        data-revision={specimen.revision}
        data-sequence={specimen.sequence}
      >
        {word}
      </span>
      <button
        type="button"
        className="flex gap-1.5 items-center disabled:text-locked"
        disabled={!specimen.undo}
        title={specimen.undo ? `Undo: ${specimen.undo}` : "Nothing to undo"}
        onClick={() => void travel("undo")}
      >
        <span aria-hidden>↶</span> Undo
      </button>
      <button
        type="button"
        className="flex gap-1.5 items-center disabled:text-locked"
        disabled={!specimen.redo}
        title={specimen.redo ? `Redo: ${specimen.redo}` : "Nothing to redo"}
        onClick={() => void travel("redo")}
      >
        <span aria-hidden>↷</span> Redo
      </button>
      <button
        type="button"
        className="underline text-ink-soft whitespace-nowrap"
        aria-expanded={history}
        onClick={() => (history ? setState({ history: undefined }) : void showHistory())}
      >
        History <span className="key">G</span>
      </button>
      <span className="grow" />
      <button
        type="button"
        className="border-b border-ink-soft text-ink-soft w-56 min-w-24 text-left flex justify-between items-center gap-1"
        onClick={() => setState({ searchOpen: true })}
      >
        <span className="truncate">find an action or a part</span> <span className="key">/</span>
      </button>
      <button
        type="button"
        aria-label="Show the keys"
        title="Show the keys"
        className="key"
        onClick={() => setState({ helpOpen: true })}
      >
        ?
      </button>
    </header>
  );
}
