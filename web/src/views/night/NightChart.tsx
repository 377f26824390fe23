import { memo, type ReactNode, useMemo, useRef, useState } from "react";
import type { LockedBlock, NightAnswer, PlanBlock } from "@/api/client";
import { ChartFrame } from "@/charts/ChartFrame";
import { CloudAxis } from "./CloudAxis";
import { heightOf, PAD, timeScale } from "./layout";
import type { Locks } from "./locks";
import { minuteWords, nightTable, sampleAt } from "./minutes";
import { NightSky } from "./NightSky";
import { PlanBlocks } from "./PlanBlocks";
import { Ribbons } from "./Ribbons";
import { TrialBlockShape } from "./TrialBlockShape";
import type { StruckOut } from "./targets";
import { useBlockMoves } from "./useBlockMoves";
import type { TrialBlock } from "./useTrialBlock";

type Props = {
  night: NightAnswer;
  /** Moves what stands where `was` says to `to`, and keeps it there. */
  lock: (whose: number, was: LockedBlock, to: LockedBlock) => void;
  toggle: (whose: number, block: PlanBlock) => void;
  locked: Locks;
  struckOut: readonly StruckOut[];
  strikeOut: (how: (all: StruckOut[]) => StruckOut[]) => void;
  /** A trial's hours, which the plan leaves free. */
  trial: TrialBlock | null;
};

/** Dusk to dawn: darkness, target, moon; what each filter gathers; the plan's blocks to drag; any minute read out. */
export function NightChart({ side, ...props }: Props & { side?: ReactNode }) {
  const { night } = props;
  const [minute, setMinute] = useState<number | null>(null);
  const twin = useMemo(() => nightTable(night), [night]);
  const sample = minute == null ? undefined : sampleAt(night, minute);
  return (
    <ChartFrame
      title="The night"
      question="Which filter at which hour?"
      twin={twin}
      height={heightOf(night)}
      side={side}
      below={
        <p className="mt-1 min-h-9 text-[0.86rem] text-muted print:hidden" data-testid="minute">
          {sample
            ? minuteWords(night, sample)
            : "Drag a block or its edges; what you move is locked and the rest is planned anew. Double click or Enter locks. Drag along the cloud line to strike hours out. Point at any minute to read it."}
        </p>
      }
    >
      {(width, height) => (
        <NightDrawing {...props} width={width} height={height} sampleAt={sample?.at_s} point={setMinute} />
      )}
    </ChartFrame>
  );
}

type DrawingProps = Props & {
  width: number;
  height: number;
  /** The minute that is read out. */
  sampleAt: number | undefined;
  point: (at_s: number | null) => void;
};

function NightDrawing({ sampleAt: at_s, point, width, height, ...props }: DrawingProps) {
  const x = timeScale(props.night, width).clamp(true);
  return (
    <div
      className="relative"
      onPointerMove={(e) => point(x.invert(e.clientX - e.currentTarget.getBoundingClientRect().left))}
      onPointerLeave={() => point(null)}
    >
      <Picture {...props} width={width} height={height} />
      {at_s != null && (
        <div
          aria-hidden
          className="pointer-events-none absolute w-px bg-ink opacity-60"
          style={{ left: x(at_s), top: PAD.top, height: height - PAD.top - 6 }}
        />
      )}
    </div>
  );
}

type PictureProps = Props & { width: number; height: number };

/** The chart itself: drawn anew when the night changes, not when a minute is pointed at. */
const Picture = memo(function Picture({
  night,
  lock,
  toggle,
  locked,
  struckOut,
  strikeOut,
  trial,
  width,
  height,
}: PictureProps) {
  const box = useRef<HTMLDivElement>(null);
  const x = timeScale(night, width);
  const moves = useBlockMoves({ night, box, x, lock, toggle });
  return (
    <div ref={box} className="min-w-0">
      {width > 0 && (
        <svg
          width={width}
          height={height}
          role="group"
          aria-label="The night from dusk to dawn"
          shapeRendering="geometricPrecision"
          style={{ fontFamily: "var(--font-mono)", fontSize: 11.5 }}
        >
          <NightSky {...{ night, x, width, height }} />
          <Ribbons {...{ night, x, width }} />
          <CloudAxis {...{ night, x, width, strikeOut }} all={struckOut} />
          {trial && <TrialBlockShape {...{ night, x }} block={trial} />}
          <PlanBlocks {...{ night, x, moves, locked, toggle }} />
        </svg>
      )}
    </div>
  );
});
