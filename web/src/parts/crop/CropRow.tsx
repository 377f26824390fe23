import { type ReactNode, useRef } from "react";
import { useWidth } from "../useWidth";
import { columnsFor } from "./columns";

const GAP = 8;
/** Height of a crop over its width, and between which heights it stays, px. */
const [SHAPE, LEAST, MOST] = [0.86, 150, 500];

/** Crops side by side that fill their rows at any width. */
export function CropRow({ count, children }: { count: number; children: (height: number) => ReactNode }) {
  const row = useRef<HTMLDivElement>(null);
  const width = useWidth(row);
  const columns = columnsFor(count, width || 1100);
  const each = ((width || 1100) - GAP * (columns - 1)) / columns;
  return (
    <div
      ref={row}
      className="mt-2 grid"
      style={{ gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))`, gap: GAP }}
      data-testid="crops"
    >
      {children(Math.round(Math.min(MOST, Math.max(LEAST, each * SHAPE))))}
    </div>
  );
}
