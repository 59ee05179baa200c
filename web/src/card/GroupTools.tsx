import { useState } from "react";
import { edit } from "../server/session";
import { groupsWith } from "../state/groups";
import { documentOf, setState } from "../state/store";
import { Section } from "./parts";

/** BACKSTAGE is the group that a control goes to when it is hidden from animators and no group for that is there. */
const BACKSTAGE = "backstage";

/** GroupTools shows the groups that the chosen things stand in, puts them into others, and hides them from animators. */
export function GroupTools({ ids }: { ids: string[] }) {
  const d = documentOf();
  const [name, setName] = useState("");
  const mine = groupsWith(d, ids);
  const others = d.groups.filter((g) => !ids.every((id) => g.members.includes(id)));
  const hiding = mine.find((g) => g.backstage && ids.every((id) => g.members.includes(id)));
  const put = async () => {
    const known = d.groups.find((g) => g.name === name.trim());
    const done = known
      ? await edit({ kind: "change-group", group: known.id, add: ids })
      : await edit({ kind: "add-group", name: name.trim(), members: ids });
    if (done) setName("");
  };
  const hide = () => {
    if (hiding) return void edit({ kind: "change-group", group: hiding.id, remove: ids });
    const known = d.groups.find((g) => g.backstage);
    if (known) void edit({ kind: "change-group", group: known.id, add: ids });
    else void edit({ kind: "add-group", name: BACKSTAGE, members: ids, backstage: true });
  };
  return (
    <Section title="Groups">
      {mine.map((g) => (
        <p key={g.id} className="flex justify-between px-1">
          <button type="button" className="hover:underline" onClick={() => setState({ chosen: [g.id] })}>
            {g.name} <span className="text-ink-soft">{wordsOf(g)}</span>
          </button>
          <button
            type="button"
            aria-label={`Take out of ${g.name}`}
            className="text-ink-soft hover:text-ink"
            onClick={() => void edit({ kind: "change-group", group: g.id, remove: ids })}
          >
            ×
          </button>
        </p>
      ))}
      <form
        className="flex gap-2 items-center"
        onSubmit={(e) => {
          e.preventDefault();
          e.currentTarget.querySelector("input")?.blur();
          if (name.trim()) void put();
        }}
      >
        <input
          aria-label="Group to put it in"
          className="field grow min-w-0 figure"
          placeholder="in the group, or a new one"
          list="groups-there-are"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <datalist id="groups-there-are">
          {others.map((g) => (
            <option key={g.id} value={g.name} />
          ))}
        </datalist>
        <button type="submit" className="action" disabled={!name.trim()}>
          Put
        </button>
      </form>
      {d.controls.some((c) => ids.includes(c.id)) && (
        <button type="button" className="underline mt-1" onClick={hide}>
          {hiding ? "show to animators" : "hide from animators"}
        </button>
      )}
    </Section>
  );
}

/** wordsOf says in words what a group does. */
export function wordsOf(g: { sight: string; locked?: boolean; backstage?: boolean }): string {
  const words = [];
  if (g.sight === "ghost") words.push("ghosted");
  if (g.sight === "hidden") words.push("hidden");
  if (g.locked) words.push("locked");
  if (g.backstage) words.push("not for animators");
  return words.join(", ");
}
