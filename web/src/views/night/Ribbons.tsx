import type { NightAnswer } from "@/api/client";
import { hue } from "@/theme/marks";
import { drawn, PAD, RIBBON, ribbonsOf, ribbonTop, slotOf, type TimeScale } from "./layout";
import { nightSpan } from "./minutes";

type Props = { night: NightAnswer; x: TimeScale; width: number };

/** A ribbon for each filter that glows with how fast it gathers information at that minute. */
export function Ribbons({ night, x, width }: Props) {
  const span = nightSpan(night);
  const slot = slotOf(x);
  return ribbonsOf(night).map(({ of: { view, plan }, target, filter: name, exposure }, i) => {
    const shown = drawn(view.samples, span);
    const most = Math.max(1e-12, ...view.samples.map((s) => s.information_per_h[exposure] ?? 0));
    return (
      <g key={`${target}${exposure}${name}`}>
        <text x={PAD.left - 8} y={ribbonTop(i) + 14} textAnchor="end" fill="var(--ink)">
          {name.length > 15 ? `${name.slice(0, 14)}…` : name}
        </text>
        <rect
          x={PAD.left}
          y={ribbonTop(i)}
          width={width - PAD.left - PAD.right}
          height={RIBBON}
          rx={4}
          fill="var(--well)"
        />
        {shown.map((s) =>
          (s.information_per_h[exposure] ?? 0) > 0 ? (
            <rect
              key={s.at_s}
              shapeRendering="crispEdges"
              x={x(s.at_s) - slot / 2}
              width={slot}
              y={ribbonTop(i)}
              height={RIBBON}
              fill={hue(plan.totals[exposure]?.quantity ?? "continuum")}
              opacity={0.12 + 0.8 * ((s.information_per_h[exposure] ?? 0) / most) ** 1.5}
            />
          ) : null,
        )}
      </g>
    );
  });
}
