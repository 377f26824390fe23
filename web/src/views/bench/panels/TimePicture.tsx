import { bisector } from "d3-array";
import { scaleLinear, scaleLog } from "d3-scale";
import { area, line } from "d3-shape";
import { useState } from "react";
import { Axes } from "@/charts/Axes";
import { spread } from "@/charts/spread";
import { clock } from "@/parts/format";
import { contenderMark } from "@/theme/marks";

const PAD = { left: 60, right: 118, top: 12, bottom: 30 };

export type TimeCurve = {
  contender: number;
  /** At each of the times; null where nothing is there yet. */
  values: (number | null)[];
  /** The curve times these is the two ends of its range; null for an end off every axis. */
  factors: (number | null)[];
};

type Props = {
  width: number;
  height: number;
  aria: string;
  /** Clock times of the points, s. */
  times: number[];
  curves: TimeCurve[];
  totalS: number;
  /** Where the goal stands on the axis; nowhere where it cannot be told as this. */
  goal: number | undefined;
  selected: number;
  axis: string;
  /** Whether less is better: the axis then rises towards the finer. */
  finer: boolean;
  show: (v: number) => string;
};

/** What every path reaches against clock time, with the goal and the time that is given. */
export function TimePicture({ width, height, aria, times, curves, totalS, goal, selected, axis, finer, show }: Props) {
  const [hover, setHover] = useState<number | null>(null);
  const end = times.at(-1) ?? totalS;
  const x = scaleLinear([0, end / 3600], [PAD.left, width - PAD.right]);
  const [low, high] = spanOf(curves, goal, finer);
  const y = (
    finer
      ? scaleLog([high, low], [height - PAD.bottom, PAD.top])
      : scaleLinear([0, high], [height - PAD.bottom, PAD.top])
  ).clamp(true);
  const last = (c: TimeCurve) => c.values.at(-1) ?? high;
  const path = line<number | null>()
    .defined((v) => v !== null)
    .x((_, i) => x((times[i] ?? 0) / 3600))
    .y((v) => y(v ?? high));
  const ends = spread(
    curves.map((c) => y(last(c))),
    15,
    [PAD.top + 4, height - PAD.bottom],
  );
  const at = hover === null ? null : Math.min(times.length - 1, bisector((t: number) => t).center(times, hover * 3600));
  return (
    <svg
      width={width}
      height={height}
      role="img"
      aria-label={aria}
      onPointerMove={(e) => {
        const h = x.invert(e.clientX - e.currentTarget.getBoundingClientRect().left);
        setHover(h >= 0 && h <= end / 3600 ? h : null);
      }}
      onPointerLeave={() => setHover(null)}
      style={{ fontFamily: "var(--font-mono)", fontSize: 11.5 }}
    >
      <Axes
        box={[PAD.left, PAD.top, width - PAD.right, height - PAD.bottom]}
        x={{
          scale: x,
          ticks: x.ticks(Math.max(3, Math.floor((width - PAD.left - PAD.right) / 80))),
          text: (t) => `${t} h`,
        }}
        y={{
          scale: y,
          ticks: finer
            ? spaced(
                STEPS.filter((s) => s >= low && s <= high),
                y,
              )
            : y.ticks(5),
          label: axis,
          text: finer ? show : undefined,
        }}
      />
      <rect
        x={x(0)}
        y={PAD.top}
        width={Math.max(0, x(totalS / 3600) - x(0))}
        height={height - PAD.bottom - PAD.top}
        fill="var(--salt)"
        opacity={0.045}
      />
      <line
        x1={x(totalS / 3600)}
        x2={x(totalS / 3600)}
        y1={PAD.top}
        y2={height - PAD.bottom}
        stroke="var(--salt)"
        strokeWidth={1}
        opacity={0.7}
      />
      {/* Close to the axis it would meet the word of the goal: there it stands at the foot. */}
      <text
        x={x(totalS / 3600) + 5}
        y={x(totalS / 3600) < PAD.left + 90 ? height - PAD.bottom - 8 : PAD.top + 10}
        fill="var(--muted)"
      >
        your {clock(totalS)}
      </text>
      {goal !== undefined && (
        <>
          <line
            x1={PAD.left}
            x2={width - PAD.right}
            y1={y(goal)}
            y2={y(goal)}
            stroke="var(--amber)"
            strokeWidth={1.2}
            strokeDasharray="1 4"
            strokeLinecap="round"
          />
          <text
            x={PAD.left + 6}
            y={y(goal) - 5}
            fill="var(--amber)"
            stroke="var(--surface)"
            strokeWidth={3}
            paintOrder="stroke"
          >
            goal {show(goal)}
          </text>
        </>
      )}
      {curves
        .filter((c) => c.contender === selected)
        .map((c) => {
          const [from, to] = c.factors;
          const end = (v: number | null, factor: number | null | undefined) =>
            y(factor === null ? high : (v ?? high) * (factor ?? 1));
          const band = area<number | null>()
            .defined((v) => v !== null)
            .x((_, i) => x((times[i] ?? 0) / 3600))
            .y0((v) => end(v, from))
            .y1((v) => end(v, to));
          return (
            <path key={c.contender} d={band(c.values) ?? ""} fill={contenderMark(c.contender).colour} opacity={0.13} />
          );
        })}
      {curves.map((c, i) => {
        const { colour, dash, letter } = contenderMark(c.contender);
        return (
          <g key={c.contender}>
            <path
              d={path(c.values) ?? ""}
              fill="none"
              stroke={colour}
              strokeWidth={c.contender === selected ? 2.6 : 1.6}
              strokeDasharray={dash}
            />
            <text x={width - PAD.right + 8} y={(ends[i] ?? 0) + 4} fill={colour}>
              {letter} {show(last(c))}
            </text>
          </g>
        );
      })}
      {at !== null && (
        <g>
          <line
            x1={x((times[at] ?? 0) / 3600)}
            x2={x((times[at] ?? 0) / 3600)}
            y1={PAD.top}
            y2={height - PAD.bottom}
            stroke="var(--ink)"
            strokeWidth={0.8}
          />
          {curves.map((c) => (
            <circle
              key={c.contender}
              cx={x((times[at] ?? 0) / 3600)}
              cy={y(c.values[at] ?? high)}
              r={3.5}
              fill={contenderMark(c.contender).colour}
            />
          ))}
          <text x={width - PAD.right - 6} y={PAD.top + 10} textAnchor="end" fill="var(--ink)">
            {clock(times[at])}:{" "}
            {curves.map((c) => `${contenderMark(c.contender).letter} ${show(c.values[at] ?? high)}`).join("  ")}
          </text>
        </g>
      )}
    </svg>
  );
}

/** Sides of squares at which the axis has a step, arcsec. */
const STEPS = [1, 2, 3, 5, 7, 10, 15, 20, 30, 50, 100, 200, 500];

/** From the least to the most that is drawn. */
function spanOf(curves: TimeCurve[], goal: number | undefined, finer: boolean): [number, number] {
  if (!finer) return [0, Math.max((goal ?? 0) * 1.15, ...curves.map((c) => c.values.at(-1) ?? 0)) * 1.04];
  const lasts = curves.flatMap((c) => c.values.at(-1) ?? []);
  const finest = Math.min(...lasts, goal ?? Infinity);
  const coarsest = Math.max(...lasts, goal ?? 0);
  return Number.isFinite(finest) ? [finest / 1.25, coarsest * 5] : [1, 100];
}

/** Of steps from the finest on, those that stand clear of the one before. */
function spaced(steps: number[], y: (v: number) => number): number[] {
  const out: number[] = [];
  for (const s of steps) {
    const last = out.at(-1);
    if (last === undefined || Math.abs(y(s) - y(last)) >= 15) out.push(s);
  }
  return out;
}
