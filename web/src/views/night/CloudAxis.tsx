import { type KeyboardEvent, type PointerEvent, useState } from "react";
import type { NightAnswer } from "@/api/client";
import { localTime } from "@/parts/evening";
import { CLOUD, cloudTop, PAD, type TimeScale } from "./layout";
import type { StruckOut } from "./targets";
import { struckOut } from "./targets";

/** Hours are struck out in steps of five minutes, s. */
const STEP_S = 300;

type Props = {
  night: NightAnswer;
  x: TimeScale;
  width: number;
  all: readonly StruckOut[];
  strikeOut: (how: (all: StruckOut[]) => StruckOut[]) => void;
};

/** An axis on which cloudy hours are struck out: drag to strike, press what is struck to have it back. */
export function CloudAxis({ night, x, width, all, strikeOut }: Props) {
  const top = cloudTop(night);
  const [drawn, setDrawn] = useState<StruckOut | null>(null);
  const stepped = (t: number) => Math.round(t / STEP_S) * STEP_S;
  const at = (e: PointerEvent<SVGElement>) =>
    stepped(x.invert(e.clientX - (e.currentTarget.ownerSVGElement?.getBoundingClientRect().left ?? 0)));
  const shown = drawn ? [...all, spanOf(drawn)] : all;
  return (
    <g>
      <text x={PAD.left - 8} y={top + 12} textAnchor="end" fill="var(--muted)">
        cloud
      </text>
      <rect
        x={PAD.left}
        y={top}
        width={Math.max(0, width - PAD.left - PAD.right)}
        height={CLOUD}
        rx={4}
        fill="var(--well)"
        data-testid="cloud-axis"
        style={{ cursor: "crosshair", touchAction: "none" }}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          setDrawn({ from_s: at(e), to_s: at(e) });
        }}
        onPointerMove={(e) => drawn && setDrawn({ ...drawn, to_s: at(e) })}
        onPointerCancel={() => setDrawn(null)}
        onPointerUp={() => {
          if (drawn && drawn.from_s !== drawn.to_s) strikeOut((now) => struckOut(now, spanOf(drawn)));
          setDrawn(null);
        }}
      />
      {shown.map((s, i) => (
        <Struck key={s.from_s} {...{ s, x, top }} clock={night.clock} index={i} strikeOut={strikeOut} />
      ))}
    </g>
  );
}

const spanOf = (s: StruckOut): StruckOut => ({ from_s: Math.min(s.from_s, s.to_s), to_s: Math.max(s.from_s, s.to_s) });

type StruckProps = {
  s: StruckOut;
  x: TimeScale;
  top: number;
  index: number;
  clock: NightAnswer["clock"];
  strikeOut: Props["strikeOut"];
};

/** Hours that are struck out: arrows move them, Shift and arrows change their length, Enter or Delete has them back. */
function Struck({ s, x, top, index, clock, strikeOut }: StruckProps) {
  const without = (all: StruckOut[]) => all.filter((o) => o.from_s !== s.from_s);
  const key = (e: KeyboardEvent) => {
    const by = { ArrowLeft: -STEP_S, ArrowRight: STEP_S }[e.key];
    if (by) {
      e.preventDefault();
      const from_s = e.shiftKey ? s.from_s : s.from_s + by;
      strikeOut((all) => struckOut(without(all), { from_s, to_s: Math.max(from_s + STEP_S, s.to_s + by) }));
    }
    if (["Enter", " ", "Delete", "Backspace"].includes(e.key)) {
      e.preventDefault();
      strikeOut(without);
    }
  };
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={`Cloud from ${localTime(s.from_s, clock)} to ${localTime(s.to_s, clock)}. Arrows move it, Delete takes it back.`}
      data-testid={`cloud-${index}`}
      onClick={() => strikeOut(without)}
      onKeyDown={key}
      style={{ cursor: "pointer" }}
    >
      <rect
        x={x(s.from_s)}
        y={top}
        width={Math.max(3, x(s.to_s) - x(s.from_s))}
        height={CLOUD}
        rx={4}
        fill="var(--edge-strong)"
      />
      <line
        x1={x(s.from_s) + 3}
        x2={x(s.to_s) - 3}
        y1={top + CLOUD / 2}
        y2={top + CLOUD / 2}
        stroke="var(--ink)"
        strokeWidth={1.4}
      />
    </g>
  );
}
