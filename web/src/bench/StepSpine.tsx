import { go } from "../state/address";
import { STEPS, useMyriapod } from "../state/store";
import { goToStep } from "../work/building";

/** StepSpine is the column of vertebrae at the left: one for each step of the work. */
export function StepSpine() {
  const present = useMyriapod((s) => s.step);
  const findings = useMyriapod((s) => s.specimen?.findings);
  const raised = useMyriapod((s) => s.raised);
  return (
    <nav aria-label="Steps" className="flex flex-col items-center py-2 min-h-0 overflow-y-auto">
      <a
        href="/"
        className="font-serif italic text-[17px] mb-1 hover:underline"
        onClick={(e) => {
          e.preventDefault();
          go("/");
        }}
      >
        Shelf
      </a>
      <ol className="flex flex-col grow justify-between w-full">
        {STEPS.map((step, i) => {
          const here = step === present;
          const count =
            (findings?.filter((f) => f.step === step).length ?? 0) + (step === "mechanisms" ? raised.length : 0);
          return (
            <li key={step} className="grow">
              <button
                type="button"
                title={`${i + 1}`}
                aria-current={here ? "step" : undefined}
                onClick={() => goToStep(step)}
                className="relative w-full h-full flex flex-col items-center justify-center group"
              >
                <svg viewBox="-50 -34 100 68" className={here ? "w-[82px]" : "w-[58px]"} aria-hidden>
                  <path d="M0-34V34" stroke="var(--color-ink)" strokeWidth="1.4" />
                  <path
                    d="M-44-15Q-34-24-20-14Q0-22 20-14Q34-24 44-15Q50 0 44 15Q34 24 20 14Q0 22-20 14Q-34 24-44 15Q-50 0-44-15Z"
                    fill={here ? "var(--color-ochre)" : "var(--color-plate)"}
                    stroke="var(--color-ink)"
                    strokeWidth="1.8"
                    className={here ? "" : "group-hover:fill-white"}
                  />
                  <circle r="7" fill="var(--color-paper)" stroke="var(--color-ink)" strokeWidth="1.8" />
                </svg>
                {count > 0 && (
                  <span className="absolute top-1 right-2 bg-vermilion-deep text-white rounded-full text-[11px] font-semibold px-1.5 leading-4">
                    {count}
                    <span className="sr-only"> findings</span>
                  </span>
                )}
                <span className={here ? "font-semibold" : "text-ink-soft"}>
                  {step.replace(/^./, (c) => c.toUpperCase())}
                </span>
              </button>
            </li>
          );
        })}
      </ol>
    </nav>
  );
}
