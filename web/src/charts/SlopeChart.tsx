import { scaleLinear, scaleLog } from "d3-scale";
import { line } from "d3-shape";
import type { LookWords, Scenario } from "@/api/client";
import { contenderMark } from "@/theme/marks";
import { Axes } from "./Axes";
import { ChartFrame } from "./ChartFrame";
import { spread } from "./spread";

type Props = { words: readonly LookWords[]; scenario: Scenario };

const PAD = { left: 56, right: 116, top: 12, bottom: 38 };

/** How steep the sky is across each sensor against the distance from the moon, and from where it drowns in the noise. */
export function SlopeChart({ words, scenario }: Props) {
  const moon = scenario.sky.moon;
  const distances = words[0]?.gradient_by_distance.map((p) => p.distance_deg) ?? [];
  if (!moon || distances.length === 0)
    return (
      <p className="mt-3 text-[0.9rem] text-muted">
        Switch the moon on, above, to see how steep it makes the sky across each sensor and from which distance that is
        below the noise.
      </p>
    );
  const twin = {
    columns: [
      "Moon's distance (°)",
      ...words.flatMap((_, i) => [`${contenderMark(i).letter} (%)`, `${contenderMark(i).letter} over noise`]),
    ],
    rows: distances.map((d, k) => [
      d,
      ...words.flatMap((w) => {
        const p = w.gradient_by_distance[k];
        return [p?.percent.toFixed(2) ?? "", p?.over_noise.toFixed(2) ?? ""];
      }),
    ]),
  };
  const hidden = (w: LookWords) => w.gradient_by_distance.find((p) => p.over_noise <= 1);
  const told = (w: LookWords) => {
    const [from, again] = [hidden(w)?.distance_deg, w.gradient?.shows_again_from_deg];
    return from == null ? "shows" : again == null ? `from ${Math.round(from)}°` : `${Math.round(from)}°–${again}°`;
  };
  return (
    <div className="mt-3" data-testid="slopes">
      <ChartFrame
        title="Slope of the sky"
        question="How steep is the sky across the sensor with the moon that far, and from where is it below the noise?"
        twin={twin}
        height={190}
      >
        {(width, height) => {
          const all = words.flatMap((w) => w.gradient_by_distance.map((p) => p.percent));
          const x = scaleLinear([5, 150], [PAD.left, width - PAD.right]);
          const y = scaleLog(
            [Math.max(0.01, Math.min(...all)), Math.max(...all)],
            [height - PAD.bottom, PAD.top],
          ).nice();
          const path = line<LookWords["gradient_by_distance"][number]>()
            .x((p) => x(p.distance_deg))
            .y((p) => y(Math.max(0.01, p.percent)));
          const ends = spread(
            words.map((w) => y(Math.max(0.01, w.gradient_by_distance.at(-1)?.percent ?? 0.01))),
            15,
            [PAD.top + 4, height - PAD.bottom],
          );
          return (
            <svg
              width={width}
              height={height}
              role="img"
              aria-label={`Slope of the sky against the moon's distance: ${words
                .map(
                  (w, i) =>
                    `${contenderMark(i).letter} ${hidden(w) ? `below the noise ${told(w)}` : "shows everywhere"}`,
                )
                .join(", ")}`}
              style={{ fontFamily: "var(--font-mono)", fontSize: 11.5 }}
            >
              <Axes
                box={[PAD.left, PAD.top, width - PAD.right, height - PAD.bottom]}
                x={{ scale: x, ticks: [5, 30, 60, 90, 120, 150], text: (t) => `${t}°`, label: "from the moon" }}
                y={{
                  scale: y,
                  ticks: [0.01, 0.03, 0.1, 0.3, 1, 3, 10, 30, 100, 300].filter(
                    (t) => y(t) >= PAD.top - 2 && y(t) <= height - PAD.bottom + 2,
                  ),
                  text: (t) => `${t} %`,
                  grid: true,
                }}
              />
              <line
                x1={x(moon.separation_deg)}
                x2={x(moon.separation_deg)}
                y1={PAD.top}
                y2={height - PAD.bottom}
                stroke="var(--salt)"
                strokeDasharray="2 4"
              />
              <text x={x(moon.separation_deg) + 4} y={height - PAD.bottom - 6} fill="var(--salt)">
                now {Math.round(moon.separation_deg)}°
              </text>
              {words.map((w, i) => {
                const m = contenderMark(i);
                const from = hidden(w);
                return (
                  <g key={m.letter}>
                    <path
                      d={path(w.gradient_by_distance) ?? ""}
                      fill="none"
                      stroke={m.colour}
                      strokeWidth={2}
                      strokeDasharray={m.dash}
                    />
                    {from && (
                      <circle
                        cx={x(from.distance_deg)}
                        cy={y(Math.max(0.01, from.percent))}
                        r={5}
                        fill="var(--surface)"
                        stroke={m.colour}
                        strokeWidth={2}
                      />
                    )}
                    <text x={width - PAD.right + 8} y={(ends[i] ?? 0) + 4} fill={m.colour} fontWeight={700}>
                      {m.letter} {told(w)}
                    </text>
                  </g>
                );
              })}
            </svg>
          );
        }}
      </ChartFrame>
      <p className="px-4 text-[0.86rem] text-muted">
        A ring marks the distance from which the slope of that path is below the noise of the stack; a right angle from
        the moon its light is evenest.
      </p>
    </div>
  );
}
