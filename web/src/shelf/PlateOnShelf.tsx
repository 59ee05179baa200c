import { api } from "../server/api";
import { attempt, notify } from "../server/session";
import { go } from "../state/address";
import type { Plate } from "../wire/wire.gen";

const counted = (n: number, one: string, many = `${one}s`) => `${n.toLocaleString("en")} ${n === 1 ? one : many}`;

/** PlateOnShelf is one specimen: its picture, what it holds and what is amiss. */
export function PlateOnShelf({ plate, changed }: { plate: Plate; changed(): void }) {
  const open = `/specimen/${plate.id}`;
  const remove = async () => {
    if (!(await attempt(() => api.remove(plate.id, plate.revision)))) return;
    changed();
    notify("told", `${plate.name} was taken off the Shelf.`, {
      title: "Put it back",
      run: () => void attempt(() => api.restore(plate.id)).then(changed),
    });
  };
  return (
    <li className="bg-plate border border-ink rounded-sm flex flex-col" data-plate={plate.name}>
      <a
        href={open}
        className="block group"
        onClick={(e) => {
          if (e.metaKey || e.ctrlKey) return;
          e.preventDefault();
          go(open);
        }}
      >
        <span className="block aspect-[16/10] overflow-hidden border-b border-rule">
          {!plate.damage && (
            <img
              src={`/api/specimens/${plate.id}/picture.png?revision=${plate.revision}`}
              alt=""
              className="w-full h-full object-contain transition-transform group-hover:scale-[1.03]"
            />
          )}
        </span>
        <span className="block font-serif text-2xl px-4 pt-3">{plate.name}</span>
      </a>
      <p className="px-4 text-ink-soft">
        {plate.damage ??
          [
            counted(plate.parts, "part"),
            counted(plate.vertices, "vertex", "vertices"),
            counted(plate.joints, "joint"),
            plate.mechanisms > 0 ? counted(plate.mechanisms, "mechanism") : "not rigged yet",
          ].join(" · ")}
      </p>
      <div className="flex items-center gap-2 px-4 py-3">
        <span className={`grow ${plate.findings > 0 ? "text-vermilion-deep" : "text-teal-deep"}`}>
          {plate.findings > 0 ? `⚑ ${counted(plate.findings, "finding")}` : "✓ no findings"}
        </span>
        <button
          type="button"
          className="action"
          aria-label={`Duplicate ${plate.name}`}
          onClick={async () => {
            if (await attempt(() => api.duplicate(plate.id))) changed();
          }}
        >
          Duplicate
        </button>
        <button type="button" className="action" aria-label={`Delete ${plate.name}`} onClick={remove}>
          Delete
        </button>
      </div>
    </li>
  );
}
