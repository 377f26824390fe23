import { area, line } from "d3-shape";
import type { SubDecision } from "@/api/client";
import { useQuantityName } from "@/parts/quantityName";
import { hue } from "@/theme/marks";
import { PAD, type Sheet } from "./subSheet";

type Props = { sub: SubDecision; sheet: Sheet };

/** Where the length does not matter, and within it where that is sure. */
export function SubPlateau({ sub, sheet: { height, from, to, y, clampX } }: Props) {
  const [pf = from, pt = to] = sub.plateau_s;
  const [sf = from, st = from] = sub.range.sure_s ?? [];
  return (
    <>
      <rect
        x={clampX(pf)}
        y={PAD.top}
        width={Math.max(0, clampX(pt) - clampX(pf))}
        height={height - PAD.bottom - PAD.top}
        fill="var(--salt)"
        opacity={0.12}
      />
      {sub.range.sure_s && clampX(st) > clampX(sf) && (
        <rect
          data-testid="sure"
          x={clampX(sf)}
          y={PAD.top}
          width={clampX(st) - clampX(sf)}
          height={height - PAD.bottom - PAD.top}
          fill="var(--salt)"
          opacity={0.12}
        >
          <title>On the plateau in eight cases of ten, sky and target being as uncertain as stated</title>
        </rect>
      )}
      <text
        x={(clampX(pf) + clampX(pt)) / 2}
        y={y(0.78)}
        textAnchor="middle"
        fill="var(--salt)"
        stroke="var(--surface)"
        strokeWidth={6}
        paintOrder="stroke"
        strokeLinejoin="round"
      >
        as good
      </text>
    </>
  );
}

/** Where a sub runs into a limit, each with its range. */
export function SubLimits({ sub, sheet: { width, height, x, y, clampX, inside } }: Props) {
  const limits = sub.limits.filter((w) => inside(w.beyond_s));
  return (
    <>
      {limits.map((w, i) => (
        <g key={w.label}>
          {w.range_s && (
            <rect
              x={clampX(w.range_s.low)}
              width={Math.max(0, clampX(w.range_s.high) - clampX(w.range_s.low))}
              y={PAD.top}
              height={height - PAD.bottom - PAD.top}
              fill="var(--danger)"
              opacity={0.1}
            />
          )}
          <line
            x1={x(w.beyond_s)}
            x2={x(w.beyond_s)}
            y1={PAD.top}
            y2={height - PAD.bottom}
            stroke="var(--danger)"
            strokeWidth={1.4}
            strokeDasharray={["", "5 3", "2 3", "8 2 2 2"][i % 4]}
          />
          <text
            x={x(w.beyond_s) + (x(w.beyond_s) > width - 150 ? -5 : 5)}
            y={y(0.6) + i * 15}
            textAnchor={x(w.beyond_s) > width - 150 ? "end" : "start"}
            fill="var(--danger)"
            stroke="var(--surface)"
            strokeWidth={6}
            paintOrder="stroke"
            strokeLinejoin="round"
          >
            {w.label}
          </text>
        </g>
      ))}
    </>
  );
}

/** Information per hour of each channel that carries the target's light, with its range. */
export function SubCurves({ sub, sheet: { from, x, y } }: Props) {
  const nameOf = useQuantityName();
  const curves = sub.curves;
  const path = line<number>()
    .x((_, i) => x(sub.chart_s[i] ?? from))
    .y((v) => y(v));
  const band = area<number>().x((_, i) => x(sub.chart_s[i] ?? from));
  return (
    <>
      {curves.map((c, i) => (
        <g key={c.channel}>
          <path
            data-testid="sub-band"
            d={band.y0((_, k) => y(c.low[k] ?? 0)).y1((_, k) => y(c.high[k] ?? 0))(c.information) ?? ""}
            fill={hue(c.quantity)}
            opacity={0.22}
          />
          <path
            d={path(c.information) ?? ""}
            fill="none"
            stroke={hue(c.quantity)}
            strokeWidth={1.9}
            strokeDasharray={["", "7 4", "2 3"][i % 3]}
          />
          <text x={PAD.left + 8} y={PAD.top + 14 + i * 15} fill={hue(c.quantity)}>
            {["──", "─ ─", "···"][i % 3]} {nameOf(c.quantity)}
            {curves.length > 1 || c.channel !== "mono" ? `, ${c.channel}` : ""}
          </text>
        </g>
      ))}
    </>
  );
}
