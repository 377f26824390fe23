import { scaleLinear, scaleLog } from "d3-scale";
import { area, line } from "d3-shape";
import type { BandwidthAnswer } from "@/api/client";

type Props = { answer: BandwidthAnswer; against: "ratio" | "centre"; width: number; height: number; label: string };
const PAD = { left: 50, right: 14, top: 8, bottom: 22 };
const HALO = { stroke: "var(--ground)", strokeWidth: 3, paintOrder: "stroke" } as const;

/** Signal to noise as depth of colour, over the width of a band and the focal ratio, or over its width and its centre. */
export function BandSurface({ answer, against, width, height, label }: Props) {
  const right = width - PAD.right;
  const bottom = height - PAD.bottom;
  const byRatio = against === "ratio";
  const columns = byRatio ? answer.focal_ratios : answer.offsets_nm;
  const rows = byRatio ? answer.relative_snr : answer.offset_snr;
  const [first, last] = [columns[0] ?? 0, columns.at(-1) ?? 1];
  const inner = [PAD.left + 14, right - 14];
  const x = byRatio ? scaleLog([first, last], inner) : scaleLinear([first, last], inner);
  const y = scaleLinear([1.75, 20.25], [bottom, PAD.top]);
  const edge = (i: number) =>
    i < 0 ? PAD.left : i >= columns.length - 1 ? right : (x(columns[i] ?? 1) + x(columns[i + 1] ?? 1)) / 2;
  const cell = Math.abs(y(0.5) - y(0));
  const at = (_: unknown, i: number) => x(columns[i] ?? 1);
  const ends = area<readonly number[]>()
    .x(at)
    .y0((r) => y(r[0] ?? 0))
    .y1((r) => y(r[1] ?? 0));
  const along = (f: (r: readonly number[]) => number) =>
    line<readonly number[]>()
      .x(at)
      .y((r) => y(f(r)))(answer.good_width_nm) ?? "";
  const own = Math.min(last, Math.max(first, answer.focal_ratio));
  const yours = answer.yours;
  const mine = { x: byRatio ? own : (yours?.offset_nm ?? Number.NaN), y: yours?.fwhm_nm ?? Number.NaN };
  const mineSeen = mine.x >= first && mine.x <= last && mine.y <= 20;
  // On the left of its point where there is no room on the right.
  const beside = (px: number) => (px > right - 90 ? { x: px - 10, textAnchor: "end" as const } : { x: px + 10 });
  const said = byRatio ? "focal ratio and bandwidth" : "centre of the band and bandwidth";
  return (
    <svg
      width={right + 6}
      height={height}
      role="img"
      aria-label={`Relative signal to noise of ${label} by ${said}. ${answer.text}`}
      data-testid={`band-surface-${against}`}
      style={{ fontFamily: "var(--font-mono)", fontSize: 11.5 }}
    >
      {rows.map((row, i) =>
        row.map((v, j) => (
          <rect
            key={`${columns[i]}-${answer.widths_nm[j]}`}
            x={edge(i - 1)}
            width={Math.max(0, edge(i) - edge(i - 1))}
            y={y(answer.widths_nm[j] ?? 0) - cell / 2}
            height={cell}
            shapeRendering="crispEdges"
            fill="var(--salt)"
            opacity={Math.max(0, (v - 0.2) / 0.8) ** 2 * 0.85}
          />
        )),
      )}
      {byRatio ? (
        <>
          <path
            d={ends(answer.best_width_range_nm) ?? ""}
            fill="var(--ink)"
            opacity={0.22}
            data-testid="best-width-range"
          />
          {[0, 1].map((i) => (
            <path
              key={i}
              d={along((r) => r[i] ?? 0)}
              fill="none"
              stroke="var(--ink)"
              strokeWidth={1}
              strokeDasharray="1 3"
            />
          ))}
          <path
            d={
              line<number>()
                .x(at)
                .y((w) => y(w))(answer.best_width_nm) ?? ""
            }
            fill="none"
            stroke="var(--ink)"
            strokeWidth={1.6}
            strokeDasharray="5 3"
          />
          <line x1={x(own)} x2={x(own)} y1={PAD.top} y2={bottom} stroke="var(--amber)" strokeWidth={1.2} />
          <text x={x(columns[2] ?? 2)} y={y(answer.good_width_nm[2]?.[1] ?? 12) - 6} fill="var(--ink)" {...HALO}>
            to here 95 % of the best
          </text>
        </>
      ) : (
        <g stroke="var(--ink)" strokeWidth={1.6}>
          <line
            x1={x(answer.best_offset_range_nm[0] ?? 0)}
            x2={x(answer.best_offset_range_nm[1] ?? 0)}
            y1={y(answer.best_nm)}
            y2={y(answer.best_nm)}
          />
          <line
            x1={x(answer.best_offset_nm)}
            x2={x(answer.best_offset_nm)}
            y1={y(answer.best_range_nm[0] ?? 0)}
            y2={y(answer.best_range_nm[1] ?? 0)}
          />
          <circle cx={x(answer.best_offset_nm)} cy={y(answer.best_nm)} r={4} fill="var(--ink)" stroke="none" />
          <text {...beside(x(answer.best_offset_nm))} y={y(answer.best_nm) - 7} fill="var(--ink)" {...HALO}>
            best
          </text>
        </g>
      )}
      {mineSeen && (
        <g>
          <circle cx={x(mine.x)} cy={y(mine.y)} r={5.5} fill="var(--ground)" stroke="var(--amber)" strokeWidth={2.2} />
          <text {...beside(x(mine.x))} y={y(mine.y) - 7} fill="var(--ink)" {...HALO}>
            yours
          </text>
        </g>
      )}
      {byRatio && (
        <text x={right - 4} y={y(answer.best_width_nm.at(-1) ?? 5) - 8} textAnchor="end" fill="var(--ink)" {...HALO}>
          best, centred
        </text>
      )}
      {(byRatio ? [2, 2.8, 4, 5.6, 8, 10] : [0, 2, 4, 6, 8]).map((n) => (
        <text
          key={n}
          x={n === last ? right : x(n)}
          y={bottom + 16}
          textAnchor={n === last ? "end" : "middle"}
          fill="var(--muted)"
        >
          {byRatio ? `f/${n}` : n === 0 ? "on the line" : n === 2 ? "2 nm redder" : `${n} nm`}
        </text>
      ))}
      {[3, 5, 7, 12, 20].map((w) => (
        <text key={w} x={PAD.left - 6} y={y(w) + 4} textAnchor="end" fill="var(--muted)">
          {w} nm
        </text>
      ))}
    </svg>
  );
}
