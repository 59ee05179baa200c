import { edit } from "../server/session";
import { SIGHTS, type Sight, setState, useMyriapod } from "../state/store";

const NEXT: Record<Sight, Sight> = { shown: "ghost", ghost: "hidden", hidden: "shown" };
const WORD: Record<Sight, string> = { shown: "shown", ghost: "ghosted, not pickable", hidden: "hidden" };

/** Pill is how much of a thing is shown: full, half, empty. */
function Pill({ sight, colour = "currentColor" }: { sight: Sight; colour?: string }) {
  return (
    <svg width="22" height="10" className="shrink-0" aria-hidden>
      <rect x="0.7" y="0.7" width="20.6" height="8.6" rx="4.3" fill="none" stroke={colour} strokeWidth="1.2" />
      {sight !== "hidden" && (
        <rect x="2.5" y="2.5" width={sight === "shown" ? 17 : 7} height="5" rx="2.5" fill={colour} />
      )}
    </svg>
  );
}

/** GroupSwitches shows, ghosts or hides each group, beside the layers of the stage. */
export function GroupSwitches() {
  const groups = useMyriapod((s) => s.specimen?.document.groups);
  if (!groups?.length) return null;
  return (
    <ul
      className="absolute left-3 top-[170px] max-h-56 w-44 overflow-y-auto flex flex-col gap-1"
      aria-label="Groups on the stage"
    >
      {groups.map((g) => {
        const sight = g.sight as Sight;
        return (
          <li key={g.id} className="flex items-center gap-2 text-ink-soft">
            <button
              type="button"
              className="flex items-center gap-2 min-w-0 hover:text-ink"
              title={`${WORD[sight]}; press for ${WORD[NEXT[sight]]}`}
              onClick={() => void edit({ kind: "change-group", group: g.id, sight: NEXT[sight] })}
            >
              <Pill sight={sight} colour={g.colour || "currentColor"} />
              <span className="sr-only">group</span>
              <span className="truncate">{`${g.name} `}</span>
              <span className="figure">{g.members.length}</span>
              <span className="sr-only">{`: ${WORD[sight]}${g.locked ? ", locked" : ""}`}</span>
              {g.locked && <span aria-hidden>⚿</span>}
            </button>
          </li>
        );
      })}
    </ul>
  );
}

/** SightSwitches shows, ghosts or hides each layer of the stage. */
export function SightSwitches() {
  const sights = useMyriapod((s) => s.sights);
  return (
    <ul className="absolute left-3 top-2.5 flex flex-col gap-1" aria-label="What the stage shows">
      {SIGHTS.map((name) => (
        <li key={name}>
          <button
            type="button"
            className="flex items-center gap-2 text-ink-soft hover:text-ink"
            aria-label={`${name}: ${WORD[sights[name]]}`}
            title={`${WORD[sights[name]]}; press for ${WORD[NEXT[sights[name]]]}`}
            onClick={() => setState({ sights: { ...sights, [name]: NEXT[sights[name]] } })}
          >
            <Pill sight={sights[name]} />
            {name}
          </button>
        </li>
      ))}
    </ul>
  );
}
