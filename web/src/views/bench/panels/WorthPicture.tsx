import { scaleLinear } from "d3-scale";
import type { Told } from "@/api/client";
import { Axes } from "@/charts/Axes";
import { levels } from "@/charts/spread";
import { clock } from "@/parts/format";
import { contenderMark } from "@/theme/marks";

const TOLD = { no_difference: "about equal", cannot_be_told: "cannot be told" };

const PAD = { left: 66, right: 30, top: 16, bottom: 34 };

/** A path with its extra price and the hours that it saves in a year. */
export type Point = {
  i: number;
  price: number;
  hours: number;
  range: { low: number; high: number } | null | undefined;
  told: Told;
};

type Props = {
  width: number;
  height: number;
  points: Point[];
  /** Hours of exposure in a year. */
  yearH: number;
  /** What the prices are. */
  label: string;
};

/** Hours saved a year against extra price. */
export function WorthPicture({ width, height, points, yearH, label }: Props) {
  const prices = points.map((p) => p.price);
  const hours = points.flatMap((p) => [p.hours, p.range?.high ?? p.hours]);
  // A path that costs years would flatten all others: it stands at the floor with an arrow.
  const floor = -Math.max(yearH, ...hours, 20);
  const x = scaleLinear([Math.min(0, ...prices), Math.max(100, ...prices)], [PAD.left, width - PAD.right]).nice();
  const y = scaleLinear(
    [Math.max(floor, Math.min(0, ...hours)), Math.max(20, ...hours)],
    [height - PAD.bottom, PAD.top],
  ).nice();
  const low = y.domain()[0] ?? 0;
  const words = (p: (typeof points)[number]) =>
    p.i === 0
      ? "baseline"
      : p.told !== "differs"
        ? TOLD[p.told]
        : `${p.hours >= 0 ? "saves" : "costs"} ${clock(Math.abs(p.hours) * 3600)}${p.hours < low ? " ↓" : ""}`;
  const spots = points.map((p) => {
    const at = { x: x(p.price), y: y(Math.max(low, p.hours)), text: words(p) };
    return { ...at, left: at.x > width - 170 };
  });
  // A point with its word, as a stretch of its row: where two meet, one word is lifted over the other.
  const stretch = (spot: (typeof spots)[number]): [number, number] => {
    const reach = 18 + 7 * spot.text.length;
    return spot.left ? [spot.x - reach, spot.x + 9] : [spot.x - 9, spot.x + reach];
  };
  const row = (spot: (typeof spots)[number]) => Math.round(spot.y / 18);
  const lifts = spots.map((spot, i) => {
    const same = spots.flatMap((other, j) => (row(other) === row(spot) ? [j] : []));
    return levels(same.map((j) => stretch(spots[j] ?? spot)))[same.indexOf(i)] ?? 0;
  });
  return (
    <svg
      width={width}
      height={height}
      role="img"
      aria-label="Hours saved a year against extra price"
      style={{ fontFamily: "var(--font-mono)", fontSize: 11.5 }}
    >
      <Axes
        box={[PAD.left, PAD.top, width - PAD.right, height - PAD.bottom]}
        x={{ scale: x, ticks: x.ticks(6), label }}
        y={{
          scale: y,
          ticks: y.ticks(4),
          text: (t) => `${Math.abs(t) >= 10000 ? `${(t / 1000).toFixed(0)}k` : t} h`,
        }}
      />
      <line x1={PAD.left} x2={width - PAD.right} y1={y(0)} y2={y(0)} stroke="var(--edge-strong)" />
      {points.map((p, i) => {
        const { letter: l, colour } = contenderMark(p.i);
        const spot = spots[i];
        if (!spot) return null;
        return (
          <g key={l}>
            {p.range && (
              <line
                data-testid="worth-range"
                x1={x(p.price)}
                x2={x(p.price)}
                y1={y(Math.max(low, p.range.low))}
                y2={y(Math.max(low, p.range.high))}
                stroke={colour}
                strokeWidth={4}
                strokeLinecap="round"
                opacity={0.5}
              />
            )}
            <circle cx={spot.x} cy={spot.y} r={9} fill={colour} />
            <text x={spot.x} y={spot.y + 4} textAnchor="middle" fill="var(--ground)" fontWeight={700}>
              {l}
            </text>
            <text
              x={spot.x + (spot.left ? -14 : 14)}
              textAnchor={spot.left ? "end" : "start"}
              y={spot.y - 8 - 15 * (lifts[i] ?? 0)}
              fill="var(--ink)"
            >
              {spot.text}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
