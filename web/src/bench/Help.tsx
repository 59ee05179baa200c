import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import { setState, useMyriapod } from "../state/store";
import { glossary } from "../text/glossary";
import { actions } from "./actions";

const POINTER = [
  ["Drag on empty paper", "orbit"],
  ["Right-drag", "pan"],
  ["Wheel", "zoom to the pointer"],
  ["Click", "choose; with Shift add to the choice"],
  ["Page down, page up in a number", "to the next number of the card, to the one before"],
  ["Drag a collar", "move the control; its knobs turn it"],
  ["Drag a chosen joint", "move it with what is below; with Alt alone (Skeleton)"],
];

/** FormulaWords lists what can be written in a formula, each with what its example comes to in four seconds. */
function FormulaWords() {
  const words = useMyriapod((s) => s.drivers).flatMap((k) => k.words ?? []);
  return (
    <>
      <h2 className="font-serif text-2xl mt-5 mb-2">Formulas</h2>
      <p className="text-ink-soft mb-2">
        Numbers, values by their names (root.moveX, or 'left fin'.bend in quotes), + - * / % ^, comparison, and or not,
        a ? b : c, and these words. Angles are in degrees, lengths in metres.
      </p>
      <dl className="grid grid-cols-[190px_110px_1fr] gap-x-4 gap-y-1.5 items-center">
        {words.map((w) => (
          <div key={w.name} className="contents">
            <dt className="figure font-semibold">{w.takes ? `${w.name}(${w.takes.join(", ")})` : w.name}</dt>
            <dd title={w.try}>
              <Plot values={w.plot} />
            </dd>
            <dd>
              {w.summary} <span className="figure text-ink-soft whitespace-nowrap">{w.try}</span>
            </dd>
          </div>
        ))}
      </dl>
    </>
  );
}

/** Plot draws a row of numbers, from its least at the bottom to its greatest at the top. */
function Plot({ values }: { values: number[] }) {
  const least = Math.min(...values);
  const range = Math.max(...values) - least || 1;
  const points = values.map((v, i) => `${(108 * i) / (values.length - 1) + 1},${25 - (22 * (v - least)) / range}`);
  return (
    <svg width="110" height="28" aria-hidden className="border-b border-l border-rule">
      <polyline points={points.join(" ")} fill="none" stroke="var(--color-violet)" strokeWidth="1.2" />
    </svg>
  );
}

/** Help lists every key that does something now. */
export function Help() {
  const open = useMyriapod((s) => s.helpOpen);
  if (!open) return null;
  return (
    <Dialog open onClose={() => setState({ helpOpen: false })} className="relative z-40">
      <div className="fixed inset-0 bg-ink/20" aria-hidden />
      <DialogPanel className="fixed left-1/2 top-12 -translate-x-1/2 w-[680px] max-h-[85vh] overflow-y-auto bg-plate border border-ink rounded-md shadow-xl p-6">
        <DialogTitle className="font-serif text-2xl mb-3">Keys and pointer</DialogTitle>
        <dl className="grid grid-cols-[1fr_auto] gap-x-8 gap-y-1">
          {POINTER.map(([how, what]) => (
            <div key={how} className="contents">
              <dt>{what}</dt>
              <dd className="text-ink-soft">{how}</dd>
            </div>
          ))}
          {actions()
            .filter((a) => a.key)
            .map((a) => (
              <div key={a.title} className="contents">
                <dt>{a.title}</dt>
                <dd>
                  <span className="key">{a.key}</span>
                </dd>
              </div>
            ))}
        </dl>
        <h2 className="font-serif text-2xl mt-5 mb-2">Our words, and the trade's</h2>
        <dl className="grid grid-cols-[160px_200px_1fr] gap-x-4 gap-y-1">
          {glossary.map((e) => (
            <div key={e.here} className="contents">
              <dt className="font-semibold">{e.here}</dt>
              <dd className="text-ink-soft">{e.trade}</dd>
              <dd>{e.means}</dd>
            </div>
          ))}
        </dl>
        <FormulaWords />
        <button type="button" className="action mt-4" onClick={() => setState({ helpOpen: false })}>
          Close
        </button>
      </DialogPanel>
    </Dialog>
  );
}
