import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import { setState, useMyriapod } from "../state/store";
import { glossary } from "../text/glossary";
import { actions } from "./actions";

const POINTER = [
  ["Drag on empty paper", "orbit"],
  ["Right-drag", "pan"],
  ["Wheel", "zoom to the pointer"],
  ["Click", "choose; with Shift add to the choice"],
  ["Drag a collar", "move the control; its knobs turn it"],
  ["Drag a chosen joint", "move it with what is below; with Alt alone (Skeleton)"],
];

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
        <button type="button" className="action mt-4" onClick={() => setState({ helpOpen: false })}>
          Close
        </button>
      </DialogPanel>
    </Dialog>
  );
}
