import { Switch } from "@headlessui/react";
import { useEffect, useState } from "react";
import { askNumber, edit } from "../server/session";
import { documentOf, useMyriapod } from "../state/store";
import { figure } from "../text/numbers";
import type { Change } from "../wire/edits.gen";
import type { DriverDeclaration } from "../wire/mechanism.gen";
import type { Declaration, Point } from "../wire/parameter.gen";
import type { Address, Driver } from "../wire/rig.gen";
import type { Tell } from "../wire/wire.gen";
import { chosenControls, rowsOf, stateOf } from "../work/channels";
import { addresses, addressOf, nameOfValue } from "../work/values";
import { AddSwing } from "./AddSwing";
import { CoursePlot } from "./CoursePlot";
import { FormulaField } from "./FormulaField";
import { HangField } from "./HangField";
import { NumberField } from "./NumberField";
import { OptionFields } from "./OptionFields";
import { ResponsePoints } from "./ResponsePoints";
import { TakePose } from "./TakePose";

const often = 250; // milliseconds between two looks at how a number comes about

/** Drivers lists what drives a number, from the lowest on, with what each makes of it now, and adds to it. shown is how many units that are shown one unit of the number is. */
export function Drivers({ of, unit, shown = 1 }: { of: Address; unit: string; shown?: number }) {
  const d = documentOf();
  const kinds = useMyriapod((s) => s.drivers);
  const trace = useMyriapod((s) => (s.number?.of.of === of.of && s.number.of.key === of.key ? s.number : undefined));
  const [kind, setKind] = useState("link");
  const [asking, setAsking] = useState(false);
  const [swinging, setSwinging] = useState(false);
  const [like, setLike] = useState("");
  const [trial, setTrial] = useState<Change>();
  const declared = kinds.find((k) => k.kind === kind);
  const stack = d.drivers.filter((x) => x.drives.of === of.of && x.drives.key === of.key);
  useEffect(() => {
    askNumber({ of: of.of, key: of.key });
    const timer = setInterval(() => askNumber({ of: of.of, key: of.key }), often);
    return () => clearInterval(timer);
  }, [of.of, of.key]);
  const others = d.drivers
    .filter((x) => stack.some((own) => own.id !== x.id && writtenAlike(kinds, own, x)))
    .map((x) => x.drives);
  const said = (value: number) => `${figure(value * shown)} ${unit}`.trim();
  const add = (by: Address[]) => {
    setAsking(false);
    void edit({ kind: "add-driver", driver: kind, drives: of, by });
  };
  const targets = chosenControls().some((c) => c.id === of.of)
    ? chosenControls()
        .filter((c) => rowsOf(c).some((row) => row.channel === of.key) && !stateOf(c, of.key).locked)
        .map((c) => ({ of: c.id, key: of.key }))
    : [of];
  const written = (text: string): Change => ({ kind: "write-driver", driver: kind, drives: targets, like, text });
  return (
    <div className="border-l-2 border-violet pl-2 my-1 flex flex-col gap-1" data-drivers={stack.length}>
      {trace && (
        <p className="flex justify-between text-ink-soft">
          <span>by hand or clip</span>
          <span className="figure">{said(trace.input)}</span>
        </p>
      )}
      {stack.map((driver, i) => (
        <DriverRow
          key={driver.id}
          driver={driver}
          place={i}
          last={i === stack.length - 1}
          made={trace?.made.find((m) => m.driver === driver.id)}
          unit={unit}
          said={said}
          onTry={setTrial}
        />
      ))}
      {trace && stack.length > 0 && (
        <p className={`flex justify-between ${trace.held ? "text-vermilion-deep" : ""}`}>
          <span>
            {trace.held ? "held by its limits at" : "comes to"}
            {trace.late && <span className="text-ink-soft"> · in a loop, a step late</span>}
          </span>
          <span className="figure">{said(trace.value)}</span>
        </p>
      )}
      {(stack.length > 0 || trial) && <CoursePlot of={of} others={others} trial={trial} said={said} />}
      {trace && <TakePose by={of} at={trace.value * shown} />}
      {trace?.remembers ? (
        <p className="text-ink-soft">
          {`This clip's memory takes ${Math.ceil(trace.remembers / 1024).toLocaleString("en")} KB, kept every ${figure(trace.apart ?? 0)} s.`}
        </p>
      ) : null}
      <div className="flex gap-2 items-center">
        <select
          aria-label={`Kind of driver for ${of.key}`}
          className="field"
          value={kind}
          title={declared?.summary}
          onChange={(e) => setKind(e.target.value)}
        >
          {kinds.map((k) => (
            <option key={k.kind} value={k.kind}>
              {k.title}
            </option>
          ))}
        </select>
        <button
          type="button"
          className="action"
          aria-expanded={asking}
          onClick={() => (declared?.least === 0 && !declared.words ? add([]) : setAsking(!asking))}
        >
          Add a driver
        </button>
        <button
          type="button"
          className="action"
          title="Have it go to and fro, by dials on a control"
          aria-expanded={swinging}
          onClick={() => setSwinging(!swinging)}
        >
          Swing…
        </button>
      </div>
      {(asking || swinging) && targets.length > 1 && (
        <p className="text-ink-soft">{`of the ${targets.length} chosen controls`}</p>
      )}
      {swinging && <AddSwing drives={targets} like={like} onAdded={() => setSwinging(false)} />}
      {asking && declared?.words && (
        <FormulaField
          label={`${declared.title} for ${of.key}`}
          words={declared.words}
          kept=""
          change={written}
          onTry={setTrial}
          onKeep={(text) => {
            setAsking(false);
            void edit(written(text));
          }}
        />
      )}
      {((asking && declared?.words) || swinging) && (
        <label className="flex gap-2 items-center text-ink-soft">
          <span className="whitespace-nowrap">and for all called</span>
          <input
            className="field grow figure"
            placeholder={`fin_*.${of.key}`}
            value={like}
            onChange={(e) => setLike(e.target.value)}
          />
        </label>
      )}
      {asking && !declared?.words && (
        <HangField
          label={`What drives ${of.key}`}
          placeholder="name.number"
          carriers={addresses(d).filter((a) => a.id !== `${of.of}.${of.key}`)}
          verb="Drive"
          onHang={(id) => add([addressOf(id)])}
        />
      )}
    </div>
  );
}

/** writtenAlike tells whether two drivers are written as the same text. */
function writtenAlike(kinds: DriverDeclaration[], a: Driver, b: Driver): boolean {
  const declared = kinds.find((k) => k.kind === a.kind && k.words);
  const texts = declared?.parameters.filter((p) => p.type === "text").map((p) => p.key) ?? [];
  const wording = (x: Driver) => JSON.stringify([x.kind, x.by, texts.map((key) => x.parameters[key])]);
  return !!declared && wording(a) === wording(b);
}

const isNumber = (p: Declaration) => p.type === "number";
const isPoints = (p: Declaration) => p.type === "points";

/** DriverRow is one driver: what it reads, its parameters, whether it is on, and where it stands among the others. */
function DriverRow({
  driver,
  place,
  last,
  made,
  unit,
  said,
  onTry,
}: {
  driver: Driver;
  place: number;
  last: boolean;
  made?: NonNullable<Tell["number"]>["made"][number]; // what it makes of the number now
  unit: string;
  said(value: number): string;
  onTry(change?: Change): void;
}) {
  const declared = useMyriapod((s) => s.drivers.find((k) => k.kind === driver.kind));
  const text = useMyriapod((s) => s.texts[driver.id]);
  const [all, setAll] = useState(true);
  const d = documentOf();
  const small = "text-ink-soft hover:text-ink disabled:opacity-30";
  const move = (to: number) => void edit({ kind: "move-driver", id: driver.id, place: to });
  const title = declared?.title ?? driver.kind;
  const alike = declared?.words ? d.drivers.filter((x) => writtenAlike([declared], driver, x)).length : 0;
  const written = (text: string): Change => ({ kind: "write-driver", id: driver.id, all: all && alike > 1, text });
  return (
    <div className={driver.on ? "" : "text-ink-soft"}>
      <p className="flex gap-2 items-center">
        <span className="text-violet">{title}</span>
        <span className="grow figure min-w-0 truncate">
          {!declared?.words && driver.by.map((a) => nameOfValue(d, a)).join(", ")}
        </span>
        {made && <span className="figure whitespace-nowrap">{said(made.value)}</span>}
        <Switch
          checked={driver.on}
          onChange={(on) => void edit({ kind: "change-driver", id: driver.id, on })}
          aria-label={`${title} on`}
          className="w-7 h-3.5 shrink-0 rounded-full border border-ink data-checked:bg-violet"
        />
        <button
          type="button"
          className={small}
          disabled={place === 0}
          aria-label={`${title} earlier`}
          onClick={() => move(place - 1)}
        >
          ↑
        </button>
        <button
          type="button"
          className={small}
          disabled={last}
          aria-label={`${title} later`}
          onClick={() => move(place + 1)}
        >
          ↓
        </button>
        <button
          type="button"
          className={small}
          aria-label={`Take the ${title.toLowerCase()} off`}
          onClick={() => void edit({ kind: "remove-driver", id: driver.id })}
        >
          ×
        </button>
      </p>
      {declared?.words && text !== undefined && (
        <FormulaField
          label={title}
          words={declared.words}
          kept={text}
          change={written}
          onTry={onTry}
          onKeep={(text) => void edit(written(text))}
        />
      )}
      {alike > 1 && (
        <label className="flex gap-2 text-ink-soft">
          <input type="checkbox" className="accent-violet" checked={all} onChange={(e) => setAll(e.target.checked)} />
          {`written for all ${alike} that have it`}
        </label>
      )}
      {declared?.parameters.filter(isPoints).map((p) => (
        <ResponsePoints
          key={p.key}
          said={said}
          onTry={onTry}
          driver={driver}
          points={(driver.parameters[p.key] ?? []) as Point[]}
          reads={made?.reads[0]}
          answers={made?.answer}
          unit={unit}
        />
      ))}
      {declared && (
        <OptionFields
          declared={declared.parameters.filter((p) => p.type === "choice")}
          values={driver.parameters}
          onChange={(parameters) => void edit({ kind: "change-driver", id: driver.id, parameters })}
        />
      )}
      {declared?.parameters.filter(isNumber).map((p) => (
        <NumberField
          key={p.key}
          label={p.title}
          unit={p.unit}
          min={p.min}
          max={p.max}
          step={(Math.min(p.max, 10) - Math.max(p.min, -10)) / 400}
          decimals={p.whole ? 0 : 3}
          value={Number(driver.parameters[p.key] ?? p.default)}
          onKeep={(value) => void edit({ kind: "change-driver", id: driver.id, parameters: { [p.key]: value } })}
        />
      ))}
    </div>
  );
}
