import { bisector } from "d3-array";
import { scaleLinear } from "d3-scale";
import { area, line } from "d3-shape";
import { useState } from "react";
import type { BenchAnswer } from "@/api/client";
import { Axes } from "@/charts/Axes";
import { spread } from "@/charts/spread";
import { clock, snr } from "@/parts/format";
import { contenderMark } from "@/theme/marks";

const PAD = { left: 44, right: 118, top: 12, bottom: 30 };

type Props = {
  width: number;
  height: number;
  label: string;
  /** Clock times of the points, s. */
  times: number[];
  curves: BenchAnswer["curves"][number]["snr"];
  totalS: number;
  goal: number;
  selected: number;
};

/** Signal to noise of every path against clock time, with the goal and the time that is given. */
export function TimePicture({ width, height, label, times, curves, totalS, goal, selected }: Props) {
  const [hover, setHover] = useState<number | null>(null);
  const end = times.at(-1) ?? totalS;
  const top = Math.max(goal * 1.15, ...curves.map((c) => c.snr.at(-1) ?? 0)) * 1.04;
  const x = scaleLinear([0, end / 3600], [PAD.left, width - PAD.right]);
  const y = scaleLinear([0, top], [height - PAD.bottom, PAD.top]);
  const path = line<number>()
    .x((_, i) => x((times[i] ?? 0) / 3600))
    .y((v) => y(v));
  const ends = spread(
    curves.map((c) => y(c.snr.at(-1) ?? 0)),
    15,
    [PAD.top + 4, height - PAD.bottom],
  );
  const at = hover === null ? null : Math.min(times.length - 1, bisector((t: number) => t).center(times, hover * 3600));
  return (
    <svg
      width={width}
      height={height}
      role="img"
      aria-label={`Signal to noise of ${label} against clock time for ${curves.length} paths`}
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
        y={{ scale: y, ticks: y.ticks(5), label: "SNR" }}
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
        goal {goal}
      </text>
      {curves
        .filter((c) => c.contender === selected)
        .map((c) => {
          const [low = 1, high = 1] = c.range_factors;
          const band = area<number>()
            .x((_, i) => x((times[i] ?? 0) / 3600))
            .y0((v) => y(Math.min(top, v * low)))
            .y1((v) => y(Math.min(top, v * high)));
          return (
            <path key={c.contender} d={band(c.snr) ?? ""} fill={contenderMark(c.contender).colour} opacity={0.13} />
          );
        })}
      {curves.map((c, i) => {
        const { colour, dash, letter } = contenderMark(c.contender);
        return (
          <g key={c.contender}>
            <path
              d={path(c.snr) ?? ""}
              fill="none"
              stroke={colour}
              strokeWidth={c.contender === selected ? 2.6 : 1.6}
              strokeDasharray={dash}
            />
            <text x={width - PAD.right + 8} y={(ends[i] ?? 0) + 4} fill={colour}>
              {letter} {snr(c.snr.at(-1) ?? 0)}
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
              cy={y(c.snr[at] ?? 0)}
              r={3.5}
              fill={contenderMark(c.contender).colour}
            />
          ))}
          <text x={width - PAD.right - 6} y={PAD.top + 10} textAnchor="end" fill="var(--ink)">
            {clock(times[at])}:{" "}
            {curves.map((c) => `${contenderMark(c.contender).letter} ${snr(c.snr[at] ?? 0)}`).join("  ")}
          </text>
        </g>
      )}
    </svg>
  );
}
