import { area, line } from "d3-shape";
import type { ReactNode } from "react";
import type { SubDecision } from "@/api/client";
import { useQuantityName } from "@/parts/quantityName";
import { hue } from "@/theme/marks";
import { PAD, type Sheet } from "./subSheet";

type Props = { sub: SubDecision; sheet: Sheet };

/** The lines of limits, one after another. */
const DASHES = ["", "5 3", "2 3", "8 2 2 2"] as const;

type Legend = { row: number; dash: string | undefined; colour: string; children: ReactNode };

/** What a line of the picture is, with a piece of it: below each other at the left, where no curve is high yet. */
function LegendRow({ row, dash, colour, children }: Legend) {
  const y = PAD.top + 14 + row * 15;
  return (
    <g>
      <line
        x1={PAD.left + 8}
        x2={PAD.left + 32}
        y1={y - 4}
        y2={y - 4}
        stroke={colour}
        strokeWidth={1.9}
        strokeDasharray={dash}
      />
      <text
        x={PAD.left + 39}
        y={y}
        fill={colour}
        stroke="var(--surface)"
        strokeWidth={5}
        paintOrder="stroke"
        strokeLinejoin="round"
      >
        {children}
      </text>
    </g>
  );
}

/** Where the length does not matter, and within it where that is sure. */
export function SubPlateau({ sub, sheet: { height, from, to, clampX } }: Props) {
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
      {clampX(pt) - clampX(pf) > 70 && (
        <text x={(clampX(pf) + clampX(pt)) / 2} y={height - PAD.bottom - 8} textAnchor="middle" fill="var(--salt)">
          as good
        </text>
      )}
    </>
  );
}

/** Where a sub runs into a limit, each with its range. */
export function SubLimits({ sub, sheet: { height, x, clampX, inside } }: Props) {
  const curves = sub.curves.length;
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
            strokeDasharray={DASHES[i % 4]}
          />
          <LegendRow row={curves + i} dash={DASHES[i % 4]} colour="var(--danger)">
            {w.label}
          </LegendRow>
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
          <LegendRow row={i} dash={["", "7 4", "2 3"][i % 3]} colour={hue(c.quantity)}>
            {nameOf(c.quantity)}
            {curves.length > 1 || c.channel !== "mono" ? `, ${c.channel}` : ""}
          </LegendRow>
        </g>
      ))}
    </>
  );
}
