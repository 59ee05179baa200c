import { useState } from "react";
import { edit } from "../session";
import { setState, useDocument, useMyriapod } from "../store";
import { matches } from "../wildcard";

/** Register is the plain list of everything in the rig: filter it, choose many at once, name them together. */
export function Register() {
  const open = useMyriapod((s) => s.registerOpen);
  const d = useDocument();
  const chosen = useMyriapod((s) => s.chosen);
  const hovered = useMyriapod((s) => s.hovered);
  const [filter, setFilter] = useState("");
  const [pattern, setPattern] = useState("");
  if (!d) return null;
  const groups = [
    { title: "Controls", list: d.controls },
    { title: "Mechanisms", list: d.mechanisms },
    { title: "Joints", list: d.joints },
    { title: "Parts", list: d.parts },
  ].map((g) => ({ ...g, list: g.list.filter((t) => matches(filter, t.name)) }));
  const all = groups.flatMap((g) => g.list.map((t) => t.id));
  const joints = d.joints.filter((j) => chosen.includes(j.id)).map((j) => j.id);

  const press = (id: string, event: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => {
    const last = chosen.at(-1);
    if (event.shiftKey && last && all.includes(last)) {
      const [from, to] = [all.indexOf(last), all.indexOf(id)].sort((a, b) => a - b);
      setState({ chosen: [...new Set([...chosen, ...all.slice(from, (to ?? 0) + 1)])] });
    } else if (event.ctrlKey || event.metaKey)
      setState({ chosen: chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id] });
    else setState({ chosen: [id] });
  };

  if (!open) {
    return (
      <button
        type="button"
        className="absolute left-3 top-32 action"
        title="Open the register"
        onClick={() => setState({ registerOpen: true })}
      >
        Register <span className="key">L</span>
      </button>
    );
  }
  return (
    <section
      aria-label="Register"
      className="absolute left-0 top-0 bottom-0 w-64 bg-paper border-r border-ink flex flex-col z-10"
    >
      <div className="flex gap-2 p-2 border-b border-rule">
        <input
          aria-label="Filter; * is a wildcard"
          placeholder="filter, * is a wildcard"
          className="field grow"
          value={filter}
          onChange={(e) => setFilter(e.target.value)}
        />
        <button type="button" onClick={() => setState({ chosen: all })} className="underline">
          all {all.length}
        </button>
        <button type="button" aria-label="Close the register" onClick={() => setState({ registerOpen: false })}>
          ×
        </button>
      </div>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling list must be reachable by keyboard */}
      <section className="overflow-y-auto grow px-2" tabIndex={0} aria-label="Everything in the rig">
        {all.length === 0 && <p className="caption p-2">{filter ? "Nothing is called that." : "The rig is empty."}</p>}
        {groups
          .filter((g) => g.list.length > 0)
          .map((g) => (
            <div key={g.title} className="py-1">
              <h2 className="caption">
                {g.title} · {g.list.length}
              </h2>
              {g.list.map((t) => (
                <button
                  key={t.id}
                  type="button"
                  aria-pressed={chosen.includes(t.id)}
                  className={`block w-full text-left px-2 rounded-sm ${chosen.includes(t.id) ? "bg-violet text-white" : hovered === t.id ? "bg-plate" : ""}`}
                  onClick={(e) => press(t.id, e)}
                  onPointerEnter={() => setState({ hovered: t.id })}
                  onPointerLeave={() => setState({ hovered: undefined })}
                >
                  {t.name}
                </button>
              ))}
            </div>
          ))}
      </section>
      {joints.length > 1 && (
        <form
          className="flex gap-2 p-2 border-t border-rule"
          onSubmit={(e) => {
            e.preventDefault();
            void edit({ kind: "name-joints", joints, pattern });
          }}
        >
          <input
            aria-label="Name the chosen joints; # is the counter"
            placeholder={`name ${joints.length} joints, e.g. tail_##`}
            className="field grow"
            value={pattern}
            onChange={(e) => setPattern(e.target.value)}
          />
          <button type="submit" className="action" disabled={!pattern}>
            Name
          </button>
        </form>
      )}
    </section>
  );
}
