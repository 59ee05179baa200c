import { useEffect } from "react";
import { MarginCard } from "../card/MarginCard";
import { BodyMap } from "../map/BodyMap";
import { Register } from "../register/Register";
import { closeSpecimen } from "../server/session";
import { Stage } from "../stage/Stage";
import { useMyriapod } from "../state/store";
import { Timeline } from "../timeline/Timeline";
import { run } from "../work/motion";
import { openAt } from "../work/place";
import { onKey } from "./actions";
import { CardEdge, useCardWidth } from "./CardEdge";
import { FirstSteps } from "./FirstSteps";
import { Help } from "./Help";
import { History } from "./History";
import { PlacingNote } from "./PlacingNote";
import { PlateHeader } from "./PlateHeader";
import { Search } from "./Search";
import { GroupSwitches, SightSwitches } from "./SightSwitches";
import { Drift, LayingBar } from "./StageNotes";
import { StepSpine } from "./StepSpine";
import { WeightTable } from "./WeightTable";

/** SpecimenPage is where one specimen is worked on. */
export function SpecimenPage({ id }: { id: string }) {
  const specimen = useMyriapod((s) => s.specimen);
  const step = useMyriapod((s) => s.step);
  const playing = useMyriapod((s) => s.playing);
  const [cardWidth, setCardWidth] = useCardWidth();

  useEffect(() => {
    const leave = openAt(id);
    addEventListener("keydown", onKey);
    return () => {
      removeEventListener("keydown", onKey);
      leave();
      closeSpecimen();
    };
  }, [id]);
  useEffect(() => {
    if (playing && specimen) run();
  }, [playing, specimen]);
  useEffect(() => {
    document.title = specimen ? `${specimen.document.name} · Myriapod` : "Myriapod";
  }, [specimen]);

  if (!specimen) {
    return (
      <main className="p-10">
        <h1 className="caption">Opening the specimen…</h1>
        <a className="underline" href="/">
          Back to the Shelf
        </a>
      </main>
    );
  }
  return (
    <div
      className="h-full min-w-[1080px] grid grid-rows-[minmax(0,1fr)]"
      style={{ gridTemplateColumns: `92px minmax(0, 1fr) ${cardWidth}px` }}
    >
      <StepSpine />
      <main className="grid grid-cols-[minmax(0,1fr)] grid-rows-[minmax(0,1fr)_auto_auto] py-2.5 min-h-0 relative">
        <section aria-label="Stage" className="border border-ink bg-plate flex flex-col min-h-0 relative">
          <PlateHeader />
          <div className="relative grow min-h-0 overflow-hidden">
            <Stage />
            <SightSwitches />
            <GroupSwitches />
            <Drift />
            <FirstSteps />
            <LayingBar />
            <PlacingNote />
            <WeightTable />
            <Register />
            <History />
            <p className="caption absolute left-4 bottom-3 pointer-events-none">
              {specimen.document.name}: {CAPTIONS[step]}
            </p>
          </div>
        </section>
        <Timeline />
        <BodyMap />
        <CardEdge width={cardWidth} onWidth={setCardWidth} />
      </main>
      <MarginCard />
      <Search />
      <Help />
    </div>
  );
}

const CAPTIONS = {
  model: "the model, at rest",
  skeleton: "the skeleton, at rest",
  mechanisms: "the mechanisms at test",
  controls: "the handles",
  skin: "the skin on its joints",
  motion: "the motion",
  trials: "looked over",
  handoff: "ready to hand over",
};
