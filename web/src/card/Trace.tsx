import { useEffect } from "react";
import { askTrace } from "../server/session";
import { useMyriapod } from "../state/store";
import { DEGREE, length } from "../text/numbers";
import type { Tell } from "../wire/wire.gen";
import { CardLink } from "./parts";

const WORDS: Record<string, string> = { control: "◇", mechanism: "⏟", joint: "hangs on" };

/** often is how many milliseconds lie between two looks at what moves a joint. */
const often = 250;

/** part says what a driver without a motion of its own has to do with it: a control stands still, a mechanism counts by so much. */
function part({ kind, share }: NonNullable<Tell["trace"]>[number]): string {
  if (kind === "control") return "0";
  return kind === "mechanism" ? `counts ${Math.round(100 * (share ?? 1))} %` : "";
}

/** Trace is the chain from the handles to a joint, with how far each moves it now. */
export function Trace({ joint }: { joint: string }) {
  const trace = useMyriapod((s) => (s.trace?.joint === joint ? s.trace.drivers : undefined));
  useEffect(() => {
    let seen = -1;
    const look = () => {
      const seq = useMyriapod.getState().frame?.seq ?? 0;
      if (seq !== seen) askTrace(joint);
      seen = seq;
    };
    look();
    const timer = setInterval(look, often);
    return () => clearInterval(timer);
  }, [joint]);
  if (!trace) return null;
  if (trace.length === 0) return <p className="text-ink-soft">Nothing moves it; it hangs on nothing.</p>;
  return (
    <ol className="border-l-2 border-violet pl-1" aria-label="From the handles to the joint" data-trace={trace.length}>
      {trace.map((d) => {
        const share = [d.moves > 5e-7 ? length(d.moves) : "", d.turns > 1e-6 ? `${(d.turns / DEGREE).toFixed(1)}°` : ""]
          .filter(Boolean)
          .join(" · ");
        return (
          <li key={d.id || d.kind}>
            {d.id ? (
              <CardLink id={d.id} what={WORDS[d.kind] ?? ""} note={share || part(d) || undefined} />
            ) : (
              <p className="flex justify-between px-1">
                <span className="text-ink-soft">what moves by itself</span>
                <span className="figure">{share || "0"}</span>
              </p>
            )}
          </li>
        );
      })}
    </ol>
  );
}
