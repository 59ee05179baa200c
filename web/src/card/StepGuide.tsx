import { useState } from "react";
import { documentOf, type Step, setState, useMyriapod } from "../state/store";
import type { Declaration } from "../wire/mechanism.gen";
import { goToStep, startLaying } from "../work/building";
import { Section } from "./parts";

interface Guide {
  title: string;
  choose: string; // what to choose for it
  sketch: string; // the data of an SVG path, in a field of 60 by 24
  to?: { title: string; run(): void };
}

/** Entry is one thing that can be done, with a small picture and what to choose for it. */
function Entry({ title, choose, sketch, to, summary }: Guide & { summary?: string }) {
  const [open, setOpen] = useState(false);
  return (
    <li className="flex gap-2 py-1 border-b border-dotted border-rule">
      <svg viewBox="-2 -2 64 28" className="w-14 h-7 shrink-0 text-violet" aria-hidden>
        <path d={sketch} fill="none" stroke="currentColor" strokeWidth="1.7" strokeLinejoin="round" />
      </svg>
      <div className="min-w-0">
        {summary ? (
          <button
            type="button"
            className="text-left hover:underline"
            aria-expanded={open}
            onClick={() => setOpen(!open)}
          >
            {title}
          </button>
        ) : (
          <span>{title}</span>
        )}
        <p className="text-ink-soft">{choose}</p>
        {open && <p>{summary}</p>}
        {to && (
          <button type="button" className="underline" onClick={to.run}>
            {to.title}
          </button>
        )}
      </div>
    </li>
  );
}

/** choiceFor says what to choose for a kind. */
function choiceFor(kind: Declaration, all: Declaration[]): string {
  if (kind.stand === "mechanism")
    return `Choose a ${kind.hosts.map((h) => all.find((k) => k.kind === h)?.called ?? h).join(" or ")}.`;
  if (kind.whole) return "Of the whole specimen: nothing need be chosen.";
  const first = kind.roles.find((r) => !r.made);
  const what = [first?.joints && "joints", first?.controls && "controls", first?.parts && "parts"]
    .filter(Boolean)
    .join(" or ");
  if (first?.chain)
    return first.least > 1
      ? `Choose a chain of ${first.least} joints or more, or its two ends.`
      : "Choose joints that follow each other.";
  return first?.most === 1 ? `Choose one of the ${what}.` : `Choose ${what}.`;
}

/** MechanismGuide lists what can be built, and what to choose for each. */
export function MechanismGuide() {
  const kinds = useMyriapod((s) => s.kinds);
  return (
    <Section title="What can be built">
      <ul>
        {kinds.map((k) => (
          <Entry key={k.kind} title={k.title} choose={choiceFor(k, kinds)} sketch={k.sketch} summary={k.summary} />
        ))}
      </ul>
    </Section>
  );
}

const chooseAll = (list: "controls" | "parts" | "joints") => () =>
  setState({ chosen: documentOf()[list].map((t) => t.id) });

/** GUIDES is what can be done in the steps that build nothing by kinds. */
const GUIDES: Partial<Record<Step, Guide[]>> = {
  controls: [
    {
      title: "Lock, hide and limit channels",
      choose: "Choose one control or several; each channel has a lock. Pose one and press Limit here.",
      sketch: "M6 4v16M6 12h40M46 4v16M26 6v12",
      to: { title: "choose all controls", run: chooseAll("controls") },
    },
    {
      title: "Shape and colour",
      choose: "Choose controls; set the shape by hand on the stage or by numbers.",
      sketch: "M4 4h16v16h-16zM40 12m-8 0a8 8 0 1 0 16 0a8 8 0 1 0-16 0",
    },
    {
      title: "What it hangs on, and switches between",
      choose: "Choose controls; name a control or joint under Hang elsewhere.",
      sketch: "M12 4v8h16v8M28 12h16v8M8 4h8",
    },
    {
      title: "Dials",
      choose: "Choose a control; add a dial, then let it drive a number of a mechanism.",
      sketch: "M4 12h52M22 6v12M22 12m-3 0a3 3 0 1 0 6 0a3 3 0 1 0-6 0",
    },
    {
      title: "Groups",
      choose: "Choose anything and press Shift+G, or group all that is called alike below.",
      sketch: "M4 4h52v16h-52zM14 12a3 3 0 1 0 .1 0M30 12a3 3 0 1 0 .1 0M46 12a3 3 0 1 0 .1 0",
    },
  ],
  skin: [
    {
      title: "Bind along a chain",
      choose: "Choose parts, then the chain; or bind all parts along one chain above.",
      sketch: "M4 18C16 4 44 4 56 18M4 6v16M30 2v8M56 6v16",
      to: { title: "choose all parts", run: chooseAll("parts") },
    },
    {
      title: "Fix to a joint",
      choose: "Choose hard parts (a shell, a buckle) and name the joint.",
      sketch: "M6 6h20v14h-20zM30 12h16M46 12a4 4 0 1 0 .1 0",
    },
  ],
  motion: [
    {
      title: "Key a pose",
      choose: "Choose a control, pose it at a frame, press K.",
      sketch: "M4 20h52M16 20v-8M34 20v-14M50 20v-6M12 8l4 4l4-4",
    },
    {
      title: "What moves by itself",
      choose: "Waves, steps and lags play along with every clip; build them in Mechanisms.",
      sketch: "M3 12q5-10 10 0t10 0t10 0t10 0t10 0",
      to: { title: "to Mechanisms", run: () => goToStep("mechanisms") },
    },
  ],
  skeleton: [
    {
      title: "Lay a chain",
      choose: "Click along the body; each joint lands in the middle of the volume.",
      sketch: "M4 18L20 10L38 14L56 6M4 18m-3 0a3 3 0 1 0 6 0a3 3 0 1 0-6 0M56 6m-3 0a3 3 0 1 0 6 0a3 3 0 1 0-6 0",
      to: { title: "begin", run: startLaying },
    },
    {
      title: "Trace a tube",
      choose: "Choose a part such as a hose in Model; joints come through its middle.",
      sketch: "M4 8C20 2 40 22 56 14M4 16C20 10 40 30 56 22",
      to: { title: "to Model", run: () => goToStep("model") },
    },
  ],
};

/** StepGuide lists what can be done in a step, and what to choose for each. */
export function StepGuide({ step }: { step: Step }) {
  const guides = GUIDES[step];
  if (!guides) return null;
  return (
    <Section title="What can be done">
      <ul>
        {guides.map((g) => (
          <Entry key={g.title} {...g} />
        ))}
      </ul>
    </Section>
  );
}
