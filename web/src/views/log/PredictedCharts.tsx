import { scaleLinear } from "d3-scale";
import type { CampaignTaught } from "@/api/log";
import { ChartFrame } from "@/charts/ChartFrame";
import { fixed } from "@/parts/format";
import { contenderMark } from "@/theme/marks";
import { utc } from "./measures";

type Beside = CampaignTaught["frames"][number];
type Row = {
  label: string;
  unit: string;
  digits: number;
  seen: (f: Beside) => number | null | undefined;
  promised: (f: Beside) => number;
};

const ROWS: readonly Row[] = [
  {
    label: "Background",
    unit: "e-/s a pixel",
    digits: 2,
    seen: (f) => f.background_e_per_s,
    promised: (f) => f.predicted.background_e_per_s,
  },
  { label: "Stars", unit: "″ across", digits: 1, seen: (f) => f.fwhm_arcsec, promised: (f) => f.predicted.fwhm_arcsec },
  { label: "Starlight", unit: "of a clear sky's", digits: 2, seen: (f) => f.transparency, promised: () => 1 },
];

const HIGH = 78;
const LABEL = 18;
const LEFT = 8;

/** Frame by frame what came, as dots, over what the model says of that minute, as a line. */
export function PredictedCharts({ of }: { of: CampaignTaught }) {
  const { frames } = of;
  if (frames.length === 0) return null;
  const times = frames.map((f) => f.at_s);
  const [from, to] = [Math.min(...times), Math.max(...times)];
  const twin = {
    columns: ["UTC", "filter", ...ROWS.flatMap((r) => [`${r.label}, ${r.unit}`, `${r.label} predicted`])],
    rows: frames.map((f) => [
      utc(f.at_s),
      of.filters[f.exposure] ?? "",
      ...ROWS.flatMap((r) => [fixed(r.seen(f) ?? Number.NaN, r.digits), fixed(r.promised(f), r.digits)]),
    ]),
  };
  const rows = ROWS.filter((r) => frames.some((f) => r.seen(f) != null));
  return (
    <div className="mt-2 -mx-4">
      <ChartFrame
        title="Predicted against measured"
        question="Dots are frames, lines what the model says of that minute; hollow dots are put aside."
        twin={twin}
        height={rows.length * HIGH + 20}
        below={
          <p className="flex flex-wrap gap-x-4 text-[0.85rem] text-muted">
            {of.filters.map((name, i) => (
              <span key={name} className="flex items-center gap-1.5">
                <span className="size-2.5 rounded-full" style={{ background: contenderMark(i).colour }} aria-hidden />
                {name}
              </span>
            ))}
          </p>
        }
      >
        {(width, height) => {
          const x = scaleLinear()
            .domain(from === to ? [from, from + 1] : [from, to])
            .range([LEFT, width - LEFT]);
          return (
            <svg
              width={width}
              height={height}
              role="img"
              aria-label="Predicted against measured; the table holds the numbers"
            >
              {rows.map((r, i) => (
                <Panel key={r.label} row={r} frames={frames} x={x} width={width} top={i * HIGH} />
              ))}
              <text x={LEFT} y={height - 4} fontSize={11.5} fill="var(--muted)">
                {utc(from)} UTC
              </text>
              <text x={width - LEFT} y={height - 4} fontSize={11.5} textAnchor="end" fill="var(--muted)">
                {utc(to)}
              </text>
            </svg>
          );
        }}
      </ChartFrame>
    </div>
  );
}

type PanelProps = { row: Row; frames: readonly Beside[]; x: (t: number) => number; width: number; top: number };

function Panel({ row, frames, x, width, top }: PanelProps) {
  const values = frames.flatMap((f) => [row.seen(f) ?? Number.NaN, row.promised(f)]).filter(Number.isFinite);
  const [low, high] = [Math.min(...values), Math.max(...values)];
  const y = scaleLinear()
    .domain(low === high ? [low - 1, high + 1] : [low, high])
    .range([HIGH - 8, LABEL + 6]);
  return (
    <g transform={`translate(0 ${top})`}>
      <text x={LEFT} y={13} fontSize={12} fill="var(--ink)">
        {row.label}{" "}
        <tspan fill="var(--muted)">
          {row.unit}, {fixed(low, row.digits)} to {fixed(high, row.digits)}
        </tspan>
      </text>
      <rect x={0} y={LABEL} width={width} height={HIGH - LABEL - 3} rx={6} fill="var(--well)" />
      {runs(frames).map((run) => (
        <polyline
          key={run[0]?.id}
          points={run.map((f) => `${x(f.at_s)},${y(row.promised(f))}`).join(" ")}
          fill="none"
          stroke={contenderMark(run[0]?.exposure ?? 0).colour}
          strokeWidth={1.6}
          strokeDasharray={run.length === 1 ? undefined : "5 3"}
        />
      ))}
      {frames.map((f) => {
        const v = row.seen(f);
        if (v == null) return null;
        const { colour } = contenderMark(f.exposure);
        return (
          <circle
            key={f.id}
            cx={x(f.at_s)}
            cy={y(v)}
            r={2.6}
            fill={f.kept ? colour : "none"}
            stroke={colour}
            strokeWidth={f.kept ? 0 : 1.2}
          >
            <title>{`${utc(f.at_s)} UTC: ${fixed(v, row.digits)}, predicted ${fixed(row.promised(f), row.digits)} ${row.unit}`}</title>
          </circle>
        );
      })}
    </g>
  );
}

/** Frames one after another through one filter: each run is a line of its own. */
export function runs(frames: readonly Beside[]): Beside[][] {
  const all: Beside[][] = [];
  for (const f of frames) {
    const last = all.at(-1);
    if (last?.[0]?.exposure === f.exposure) last.push(f);
    else all.push([f]);
  }
  return all;
}
