import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions, Dialog, DialogPanel } from "@headlessui/react";
import { useState } from "react";
import { setState, useMyriapod } from "../state/store";
import { matches } from "../text/wildcard";
import { type Action, actions } from "./actions";

/** saidOtherwise tells whether a text is among the other words for an action, from the beginning of one. */
const saidOtherwise = (text: string, words?: string) =>
  text.trim().length > 1 &&
  !!words
    ?.toLowerCase()
    .split(" ")
    .some((w) => w.startsWith(text.trim().toLowerCase()));

/** fieldsOfCard lists what can be typed or set on the margin card, by what it is called there. */
function fieldsOfCard(): { label: string; field: HTMLElement }[] {
  const fields = document.querySelectorAll<HTMLInputElement>("aside input, aside select");
  return [...fields].flatMap((field) => {
    const label = field.getAttribute("aria-label") ?? field.labels?.[0]?.innerText.trim();
    return label && field.offsetParent ? [{ label, field }] : [];
  });
}

/** focusSoon goes to a field once the dialog that asked for it is gone, and the page takes the keyboard again. */
function focusSoon(field: HTMLElement) {
  setTimeout(() => (field.closest("[inert]") ? focusSoon(field) : field.focus()), 60);
}

/** Search finds any action or part by a few letters, or several things by a wildcard. */
export function Search() {
  const open = useMyriapod((s) => s.searchOpen);
  const specimen = useMyriapod((s) => s.specimen);
  const [text, setText] = useState("");
  const close = () => {
    setState({ searchOpen: false });
    setText("");
  };
  if (!open || !specimen) return null;
  const d = specimen.document;
  const things = [
    ...d.controls.map((t) => ({ ...t, what: "control" })),
    ...d.mechanisms.map((t) => ({ ...t, what: "mechanism" })),
    ...d.joints.map((t) => ({ ...t, what: "joint" })),
    ...d.parts.map((t) => ({ ...t, what: "part" })),
    ...d.repeats.map((t) => ({ ...t, what: "repeat" })),
    ...d.groups.map((t) => ({ ...t, what: "group" })),
    ...d.measures.map((t) => ({ ...t, what: "measure" })),
  ].filter((t) => matches(text, t.name) || ("label" in t && !!t.label && matches(text, t.label)));
  const fields = text ? fieldsOfCard().filter((f) => matches(text, f.label)) : [];
  const found: Action[] = [
    ...fields.slice(0, 12).map((f) => ({ title: `Go to ${f.label}`, key: "field", run: () => focusSoon(f.field) })),
    ...actions().filter((a) => matches(text, a.title) || saidOtherwise(text, a.words)),
    ...(text.includes("*") && things.length > 1
      ? [{ title: `Choose all ${things.length}: ${text}`, run: () => setState({ chosen: things.map((t) => t.id) }) }]
      : []),
    ...(text
      ? things.slice(0, 40).map((t) => ({ title: t.name, key: t.what, run: () => setState({ chosen: [t.id] }) }))
      : []),
  ];
  return (
    <Dialog open onClose={close} className="relative z-40" aria-label="Search">
      <div className="fixed inset-0 bg-ink/20" aria-hidden />
      <DialogPanel className="fixed left-1/2 top-20 -translate-x-1/2 w-[520px] bg-plate border border-ink rounded-md shadow-xl">
        <Combobox<Action | null>
          value={null}
          onChange={(action) => {
            close();
            if (action && !action.why) action.run();
          }}
        >
          <ComboboxInput
            autoFocus
            aria-label="Find an action or a part"
            placeholder="Find an action or a part; * is a wildcard"
            className="w-full bg-transparent px-4 py-3 text-base border-b border-rule"
            onChange={(e) => setText(e.target.value)}
          />
          <ComboboxOptions static className="max-h-96 overflow-y-auto py-1">
            {found.length === 0 && <p className="caption px-4 py-2">Nothing is called that.</p>}
            {found.map((action) => (
              <ComboboxOption
                key={`${action.title} ${action.key ?? ""}`}
                value={action}
                disabled={!!action.why}
                className="flex justify-between px-4 py-1 data-focus:bg-paper data-disabled:text-locked cursor-pointer"
              >
                <span>
                  {action.title}
                  {action.why && <span className="caption"> · {action.why}</span>}
                </span>
                {action.key && <span className="key">{action.key}</span>}
              </ComboboxOption>
            ))}
          </ComboboxOptions>
        </Combobox>
      </DialogPanel>
    </Dialog>
  );
}
