import { useState } from "react";

const [LEAST, MOST, USUAL] = [292, 640, 292];
const KEPT = "myriapod.cardWidth";

/** within keeps the card at least as wide as its fields need, and the stage in sight. */
const within = (width: number) => Math.max(LEAST, Math.min(width, MOST, innerWidth - 700));

/** useCardWidth is how wide the card is, in pixels; it stays so for this browser. */
export function useCardWidth(): [number, (width: number) => void] {
  const [width, setWidth] = useState(() => Number(localStorage.getItem(KEPT)) || USUAL);
  const keep = (wanted: number) => {
    localStorage.setItem(KEPT, String(within(wanted)));
    setWidth(within(wanted));
  };
  return [within(width), keep];
}

/** CardEdge is the edge between stage and card, by which the card is made wider. */
export function CardEdge({ width, onWidth }: { width: number; onWidth(width: number): void }) {
  return (
    // biome-ignore lint/a11y/useSemanticElements: a rule that can be moved is no hr
    <div
      role="separator"
      tabIndex={0}
      aria-orientation="vertical"
      aria-label="Width of the card"
      aria-valuemin={LEAST}
      aria-valuemax={MOST}
      aria-valuenow={width}
      title="Drag to make the card wider; double-click for its usual width"
      className="absolute inset-y-0 -right-2 w-2 z-10 cursor-col-resize touch-none hover:bg-ochre/40"
      onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
      onPointerMove={(e) => e.currentTarget.hasPointerCapture(e.pointerId) && onWidth(innerWidth - e.clientX)}
      onDoubleClick={() => onWidth(USUAL)}
      onKeyDown={(e) => {
        const by = { ArrowLeft: 16, ArrowRight: -16 }[e.key];
        if (by === undefined) return;
        e.preventDefault();
        e.stopPropagation();
        onWidth(width + by);
      }}
    />
  );
}
