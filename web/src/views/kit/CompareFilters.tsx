import { useQueries } from "@tanstack/react-query";
import { scaleLinear } from "d3-scale";
import { line } from "d3-shape";
import { useState } from "react";
import type { StoredEntry } from "@/api/client";
import { drawQuery } from "@/api/queries";
import { Axes } from "@/charts/Axes";
import { ChartFrame } from "@/charts/ChartFrame";
import { Button } from "@/parts/controls/Button";
import { contenderMark } from "@/theme/marks";

const MARKS: [number, string, string][] = [
  [435.8, "Hg", "var(--amber)"],
  [486.1, "H-beta", "var(--hb)"],
  [500.7, "[O III]", "var(--oiii)"],
  [546.1, "Hg", "var(--amber)"],
  [568.5, "Na", "var(--amber)"],
  [589.3, "Na", "var(--amber)"],
  [656.3, "H-alpha", "var(--ha)"],
  [672.4, "[S II]", "var(--sii)"],
];
const ZOOMS: [string, [number, number]][] = [
  ["All", [380, 720]],
  ["[O III]", [480, 515]],
  ["H-alpha, [S II]", [645, 685]],
];
const PAD = { left: 50, right: 12, top: 18 };

/** Several filters on one plot, over the lines of nebulae and of lamps. */
export function CompareFilters({ entries, clear }: { entries: StoredEntry[]; clear: () => void }) {
  const [zoom, setZoom] = useState(0);
  const curves = useQueries({ queries: entries.map(drawQuery) });
  const range = ZOOMS[zoom]?.[1] ?? [380, 720];
  const twin = {
    columns: ["Filter", "nm", "transmission"],
    rows: entries.flatMap((e, i) =>
      (curves[i]?.data ?? [])
        .filter((p) => (p[0] ?? 0) >= range[0] && (p[0] ?? 0) <= range[1])
        .map((p) => [e.entry.name, p[0] ?? 0, (p[1] ?? 0).toFixed(4)]),
    ),
  };
  const side = (
    <>
      {ZOOMS.map(([name], i) => (
        <button
          key={name}
          type="button"
          aria-pressed={i === zoom}
          onClick={() => setZoom(i)}
          className={`min-h-[24px] rounded-full px-2 py-0.5 text-[0.84rem] ${i === zoom ? "bg-raised text-ink" : "text-muted hover:text-ink"}`}
        >
          {name}
        </button>
      ))}
      <Button look="quiet" onClick={clear}>
        Clear
      </Button>
    </>
  );
  return (
    <ChartFrame
      title="Filters compared"
      question="Head-on, over the lines of nebulae and lamps"
      twin={twin}
      height={200 + Math.ceil(entries.length / 3) * 16}
      side={side}
    >
      {(width, height) => {
        const floor = height - 24 - Math.ceil(entries.length / 3) * 16;
        const x = scaleLinear(range, [PAD.left, width - PAD.right]);
        const y = scaleLinear([0, 1], [floor, PAD.top]);
        return (
          <svg
            width={width}
            height={height}
            role="img"
            aria-label={`Transmission of ${entries.map((e) => e.entry.name).join(", ")}`}
            style={{ fontFamily: "var(--font-mono)", fontSize: 11.5 }}
          >
            <defs>
              <clipPath id="compare-clip">
                <rect x={PAD.left} y={0} width={Math.max(0, width - PAD.left - PAD.right)} height={height} />
              </clipPath>
            </defs>
            <Axes
              box={[PAD.left, PAD.top, width - PAD.right, floor]}
              x={{ scale: x, ticks: x.ticks(8), grid: false }}
              y={{ scale: y, ticks: [0, 0.5, 1], text: (t) => `${t * 100} %` }}
            />
            {MARKS.filter(([nm]) => nm > range[0] && nm < range[1]).map(([nm, name, fill]) => (
              <g key={nm}>
                <line
                  x1={x(nm)}
                  x2={x(nm)}
                  y1={PAD.top}
                  y2={floor}
                  stroke={fill}
                  strokeWidth={1}
                  opacity={0.7}
                  strokeDasharray={name === "Na" || name === "Hg" ? "2 3" : ""}
                />
                <text
                  x={x(nm) + (name === "H-beta" ? -8 : name === "[O III]" ? 10 : 0)}
                  y={12}
                  textAnchor={
                    name === "H-beta"
                      ? "end"
                      : name === "[O III]"
                        ? "start"
                        : name === "[S II]"
                          ? "start"
                          : name === "H-alpha"
                            ? "end"
                            : "middle"
                  }
                  fill={fill}
                >
                  {name}
                </text>
              </g>
            ))}
            <g clipPath="url(#compare-clip)">
              {entries.map((e, i) => (
                <path
                  key={e.id}
                  d={
                    line<number[]>()
                      .x((p) => x(p[0] ?? 0))
                      .y((p) => y(p[1] ?? 0))(curves[i]?.data ?? []) ?? ""
                  }
                  fill="none"
                  stroke={contenderMark(i).colour}
                  strokeWidth={1.8}
                  strokeDasharray={contenderMark(i).dash}
                />
              ))}
            </g>
            {entries.map((e, i) => (
              <g
                key={e.id}
                transform={`translate(${PAD.left + (i % 3) * ((width - PAD.left) / 3)} ${floor + 36 + Math.floor(i / 3) * 16})`}
              >
                <line
                  x1={0}
                  x2={22}
                  y1={-4}
                  y2={-4}
                  stroke={contenderMark(i).colour}
                  strokeWidth={2}
                  strokeDasharray={contenderMark(i).dash}
                />
                <text x={28} fill={contenderMark(i).colour}>
                  {e.entry.name.length > 30 ? `${e.entry.name.slice(0, 29)}…` : e.entry.name}
                </text>
              </g>
            ))}
          </svg>
        );
      }}
    </ChartFrame>
  );
}
