import { useState } from "react";
import { edit } from "../server/session";
import { documentOf, type Sight, setState } from "../state/store";
import type { Group } from "../wire/rig.gen";
import { wordsOf } from "./GroupTools";
import { CardHead, nameOf, Section } from "./parts";

/** MOST is how many members a card lists; the register lists all. */
const MOST = 60;

/** GroupCard is for a group: how its members are seen, whether they may be touched, and who they are. */
export function GroupCard({ group }: { group: Group }) {
  const [like, setLike] = useState("");
  const change = (what: object) => edit({ kind: "change-group", group: group.id, ...what });
  const colour = (value: string) => value !== (group.colour ?? "") && void change({ colour: value });
  return (
    <>
      <CardHead id={group.id} name={group.name}>
        <span className="text-ink-soft">Group of {group.members.length}</span>
      </CardHead>
      <div className="flex flex-col gap-1.5 py-1">
        <SightField group={group} />
        <label className="flex justify-between">
          Locked
          <input
            type="checkbox"
            className="accent-violet"
            checked={!!group.locked}
            onChange={(e) => void change({ locked: e.target.checked })}
          />
        </label>
        <label className="flex justify-between">
          Not for animators
          <input
            type="checkbox"
            className="accent-violet"
            checked={!!group.backstage}
            onChange={(e) => void change({ backstage: e.target.checked })}
          />
        </label>
        <div className="flex justify-between">
          <label className="flex gap-2 items-center">
            Colour of its controls
            <input
              type="color"
              key={group.colour}
              className="w-8 h-5"
              defaultValue={group.colour || "#b1741a"}
              onBlur={(e) => colour(e.target.value)}
            />
          </label>
          {group.colour && (
            <button type="button" className="underline" onClick={() => colour("")}>
              as each has it
            </button>
          )}
        </div>
      </div>
      <Section title="In it">
        <form
          className="flex gap-2 items-center mb-1"
          onSubmit={async (e) => {
            e.preventDefault();
            e.currentTarget.querySelector("input")?.blur();
            if (like.trim() && (await change({ like: [like.trim()] }))) setLike("");
          }}
        >
          <input
            aria-label="Add all that are called"
            className="field grow min-w-0 figure"
            placeholder="leg_*, all that are called so"
            value={like}
            onChange={(e) => setLike(e.target.value)}
          />
          <button type="submit" className="action" disabled={!like.trim()}>
            Add
          </button>
        </form>
        {group.members.length === 0 && <p>Nothing is in it. Choose things and put them in it from their card.</p>}
        {group.members.slice(0, MOST).map((id) => (
          <p key={id} className="flex justify-between px-1 hover:bg-plate">
            <button
              type="button"
              className="grow text-left"
              onPointerEnter={() => setState({ hovered: id })}
              onPointerLeave={() => setState({ hovered: undefined })}
              onClick={() => setState({ chosen: [id] })}
            >
              {nameOf(id)}
            </button>
            <button
              type="button"
              aria-label={`Take ${nameOf(id)} out`}
              className="text-ink-soft hover:text-ink"
              onClick={() => void change({ remove: [id] })}
            >
              ×
            </button>
          </p>
        ))}
        {group.members.length > MOST && <p className="text-ink-soft">and {group.members.length - MOST} more</p>}
      </Section>
      <div className="flex flex-wrap gap-2 mt-3">
        <button
          type="button"
          className="action action-main"
          disabled={group.members.length === 0}
          onClick={() => setState({ chosen: group.members })}
        >
          Choose all
        </button>
        <button
          type="button"
          className="action"
          onClick={() => void edit({ kind: "remove-groups", groups: [group.id] })}
        >
          Ungroup
        </button>
      </div>
    </>
  );
}

function SightField({ group }: { group: Group }) {
  return (
    <label className="flex justify-between">
      Shown
      <select
        className="field"
        aria-label={`How ${group.name} is shown`}
        value={group.sight}
        onChange={(e) => void edit({ kind: "change-group", group: group.id, sight: e.target.value as Sight })}
      >
        <option value="shown">shown</option>
        <option value="ghost">ghosted, not pickable</option>
        <option value="hidden">hidden</option>
      </select>
    </label>
  );
}

/** GroupList lists the groups of the rig, and makes a new one of all that is called alike. */
export function GroupList() {
  const d = documentOf();
  const [name, setName] = useState("");
  const [like, setLike] = useState("");
  return (
    <Section title="Groups">
      {d.groups.map((g) => (
        <p key={g.id} className="flex items-center justify-between px-1 hover:bg-plate">
          <button type="button" className="grow text-left" onClick={() => setState({ chosen: [g.id] })}>
            {g.name} <span className="text-ink-soft">{g.members.length}</span>{" "}
            <span className="text-ink-soft">{wordsOf(g)}</span>
          </button>
          <button
            type="button"
            aria-pressed={g.sight !== "shown"}
            aria-label={`${g.sight === "hidden" ? "Show" : "Hide"} ${g.name}`}
            className="underline ml-2"
            onClick={() =>
              void edit({ kind: "change-group", group: g.id, sight: g.sight === "hidden" ? "shown" : "hidden" })
            }
          >
            {g.sight === "hidden" ? "show" : "hide"}
          </button>
          <button
            type="button"
            aria-pressed={!!g.locked}
            aria-label={`${g.locked ? "Unlock" : "Lock"} ${g.name}`}
            className="underline ml-2"
            onClick={() => void edit({ kind: "change-group", group: g.id, locked: !g.locked })}
          >
            {g.locked ? "unlock" : "lock"}
          </button>
        </p>
      ))}
      {d.mechanisms.some((m) => m.controls.some((c) => !d.groups.some((g) => g.members.includes(c)))) && (
        <button type="button" className="action mt-1" onClick={() => void edit({ kind: "group-by-mechanism" })}>
          Group by mechanism
        </button>
      )}
      <form
        className="flex gap-2 items-center mt-1"
        onSubmit={async (e) => {
          e.preventDefault();
          const made = await edit({
            kind: "add-group",
            name: name.trim() || like.replace(/[*?]/g, ""),
            like: [like.trim()],
          });
          if (!made) return;
          setName("");
          setLike("");
          setState({ chosen: [made.document.groups.at(-1)?.id ?? ""] });
        }}
      >
        <input
          aria-label="Group all that are called"
          className="field min-w-0 grow figure"
          placeholder="all called leg_*"
          value={like}
          onChange={(e) => setLike(e.target.value)}
        />
        <input
          aria-label="Name of the group"
          className="field min-w-0 w-24 figure"
          placeholder="as"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <button type="submit" className="action" disabled={!like.trim()}>
          Group
        </button>
      </form>
    </Section>
  );
}
