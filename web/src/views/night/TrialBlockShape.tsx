import type { NightAnswer } from "@/api/client";
import { localTime } from "@/parts/evening";
import { BLOCK, blockRows, type TimeScale } from "./layout";
import type { TrialBlock } from "./useTrialBlock";

/** A trial's hours in the row of the plan's blocks. */
export function TrialBlockShape({ block: b, night, x }: { block: TrialBlock; night: NightAnswer; x: TimeScale }) {
  const top = blockRows(night)[0]?.top ?? 0;
  const width = Math.max(4, x(b.to_s) - x(b.from_s));
  const hours = `${localTime(b.from_s, night.clock)} to ${localTime(b.to_s, night.clock)}`;
  return (
    <g data-testid="trial-block">
      <title>{`Trial ${b.title}, ${hours}`}</title>
      <rect
        x={x(b.from_s)}
        y={top}
        width={width}
        height={BLOCK}
        rx={7}
        fill="var(--raised)"
        stroke="var(--salt)"
        strokeWidth={1.5}
        strokeDasharray="5 4"
      />
      {width > 60 && (
        <g fill="var(--ink)">
          <text x={x(b.from_s) + 8} y={top + 18} fontWeight={700}>
            trial
          </text>
          <text x={x(b.from_s) + 8} y={top + 34}>
            {b.order.slice(0, Math.floor((width - 12) / 7.2))}
          </text>
        </g>
      )}
    </g>
  );
}
