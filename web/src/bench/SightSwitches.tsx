import { SIGHTS, type Sight, setState, useMyriapod } from "../state/store";

const NEXT: Record<Sight, Sight> = { shown: "ghost", ghost: "hidden", hidden: "shown" };
const WORD: Record<Sight, string> = { shown: "shown", ghost: "ghosted, not pickable", hidden: "hidden" };

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
            <svg width="22" height="10" aria-hidden>
              <rect
                x="0.7"
                y="0.7"
                width="20.6"
                height="8.6"
                rx="4.3"
                fill="none"
                stroke="currentColor"
                strokeWidth="1.2"
              />
              {sights[name] !== "hidden" && (
                <rect
                  x="2.5"
                  y="2.5"
                  width={sights[name] === "shown" ? 17 : 7}
                  height="5"
                  rx="2.5"
                  fill="currentColor"
                />
              )}
            </svg>
            {name}
          </button>
        </li>
      ))}
    </ul>
  );
}
