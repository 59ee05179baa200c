import { memo, useMemo, useRef, useState } from "react";
import { NameTools } from "../card/NameTools";
import { foresee } from "../server/asking";
import { edit } from "../server/session";
import { setState, state, useDocument, useMyriapod, useOrigins } from "../state/store";
import { length } from "../text/numbers";
import { groupsOf, type Row } from "./rows";

const RowButton = memo(function RowButton({
  row,
  press,
  drag,
  over,
  drop,
}: {
  row: Row;
  press(id: string, event: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }): void;
  drag(id: string): void;
  over(id: string): void;
  drop(id: string): void;
}) {
  const chosen = useMyriapod((s) => s.chosen.includes(row.id));
  const hovered = useMyriapod((s) => s.hovered === row.id);
  return (
    <button
      type="button"
      aria-pressed={chosen}
      draggable={row.joint}
      className={`block w-full text-left px-2 rounded-sm truncate ${chosen ? "bg-violet text-white" : hovered ? "bg-plate" : ""}`}
      style={{ paddingLeft: 8 + 9 * row.depth }}
      onClick={(e) => press(row.id, e)}
      onPointerEnter={() => setState({ hovered: row.id })}
      onPointerLeave={() => setState({ hovered: undefined })}
      onDragStart={(e) => {
        e.dataTransfer.setData("text/plain", row.name);
        drag(row.id);
      }}
      onDragOver={(e) => {
        if (!row.joint) return;
        e.preventDefault();
        over(row.id);
      }}
      onDrop={(e) => {
        e.preventDefault();
        drop(row.id);
      }}
    >
      {row.copy && (
        <span title={row.differs ? "a copy that keeps something of its own" : "a copy"}>
          {row.differs ? "◆ " : "↻ "}
        </span>
      )}
      {row.name}
      {row.label && <span className="opacity-80"> · {row.label}</span>}
    </button>
  );
});

interface Hanging {
  joints: string[];
  onto?: string;
  told: string;
  refused?: boolean;
}

/** Register is the plain list of everything in the rig: filter it, choose many at once, name them together, hang joints elsewhere. */
export function Register() {
  const open = useMyriapod((s) => s.registerOpen);
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
  return <OpenRegister />;
}

function OpenRegister() {
  const d = useDocument();
  const origins = useOrigins();
  const joints = useMyriapod((s) => s.chosen.length);
  const [filter, setFilter] = useState("");
  const [hanging, setHanging] = useState<Hanging>();
  const asked = useRef("");
  const groups = useMemo(() => (d ? groupsOf(d, origins, filter) : []), [d, origins, filter]);
  const all = useMemo(() => groups.flatMap((g) => g.rows.map((r) => r.id)), [groups]);

  const acts = useMemo(() => {
    const press = (id: string, event: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => {
      const { chosen } = state();
      const last = chosen.at(-1);
      if (event.shiftKey && last && all.includes(last)) {
        const [from, to] = [all.indexOf(last), all.indexOf(id)].sort((a, b) => a - b);
        setState({ chosen: [...new Set([...chosen, ...all.slice(from, (to ?? 0) + 1)])] });
      } else if (event.ctrlKey || event.metaKey)
        setState({ chosen: chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id] });
      else setState({ chosen: [id] });
    };
    const drag = (id: string) => {
      const { chosen, specimen } = state();
      const picked = (specimen?.document.joints ?? []).filter((j) => chosen.includes(j.id)).map((j) => j.id);
      setHanging({ joints: picked.includes(id) ? picked : [id], told: "Drop on the joint to hang on." });
    };
    const over = (onto: string) => {
      if (asked.current === onto) return;
      asked.current = onto;
      setHanging((h) => {
        if (h) void ask(h.joints, onto);
        return h;
      });
    };
    const ask = async (joints: string[], onto: string) => {
      const preview = await foresee({ kind: "reparent", joints, parent: onto });
      if (asked.current !== onto) return;
      if (typeof preview === "string") setHanging({ joints, onto, told: preview, refused: true });
      else if (preview)
        setHanging({ joints, onto, told: `moves ${preview.moved === 0 ? "nothing" : length(preview.moved)}` });
    };
    const drop = (onto: string) => {
      asked.current = "";
      setHanging((h) => {
        if (h) void edit({ kind: "reparent", joints: h.joints, parent: onto });
        return undefined;
      });
    };
    return { press, drag, over, drop };
  }, [all]);
  if (!d) return null;
  const chosen = joints > 1 ? d.joints.filter((j) => state().chosen.includes(j.id)) : [];

  return (
    <section
      aria-label="Register"
      className="absolute left-0 top-0 bottom-0 w-64 bg-paper border-r border-ink flex flex-col z-10"
      onDragEnd={() => setHanging(undefined)}
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
        {groups.map((g) => (
          <div key={g.title} className="py-1">
            <h2 className="caption">
              {g.title} · {g.rows.length}
            </h2>
            {g.rows.map((r) => (
              <RowButton key={r.id} row={r} {...acts} />
            ))}
          </div>
        ))}
      </section>
      {hanging && (
        // biome-ignore lint/a11y/noStaticElementInteractions: a place to drop on; the joint's card does the same by keyboard
        <div
          className={`p-2 border-t border-rule ${hanging.refused ? "text-vermilion-deep" : "text-teal-deep"}`}
          onDragOver={(e) => {
            e.preventDefault();
            acts.over("");
          }}
          onDrop={(e) => {
            e.preventDefault();
            acts.drop("");
          }}
        >
          {hanging.onto !== undefined && !hanging.refused
            ? `Hang ${hanging.joints.length} on ${d.joints.find((j) => j.id === hanging.onto)?.name ?? "nothing"}: ${hanging.told}`
            : hanging.told}
          <span className="block text-ink-soft">Drop here to hang on nothing.</span>
        </div>
      )}
      {chosen.length > 1 && (
        <div className="p-2 border-t border-rule max-h-64 overflow-y-auto">
          <NameTools key={chosen.length} ids={chosen.map((j) => j.id)} first={chosen[0]?.name ?? ""} />
        </div>
      )}
    </section>
  );
}
