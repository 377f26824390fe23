import { scaleLinear } from "d3-scale";
import { area, line } from "d3-shape";
import { useMemo, useState } from "react";
import { answerOf, api, type Quantity, type Scenario } from "@/api/client";
import { useLive } from "@/api/useLive";
import { Axes } from "@/charts/Axes";
import { ChartFrame } from "@/charts/ChartFrame";
import { hue, QUANTITY_LABELS } from "@/theme/marks";

const ZOOMS: { name: string; range: [number, number] }[] = [
  { name: "All", range: [380, 780] },
  { name: "H-beta, [O III]", range: [475, 515] },
  { name: "Sodium", range: [555, 625] },
  { name: "H-alpha, [S II]", range: [640, 685] },
];
const PARTS: Record<string, { label: string; fill: string; opacity: number }> = {
  natural: { label: "natural", fill: "var(--c4)", opacity: 0.55 },
  artificial: { label: "lamps", fill: "var(--amber)", opacity: 0.5 },
  moon: { label: "moon", fill: "var(--ink)", opacity: 0.45 },
  twilight: { label: "twilight", fill: "var(--c3)", opacity: 0.5 },
};
const CHANNEL: Record<string, string> = { mono: "var(--ink)", r: "var(--ha)", g: "var(--c2)", b: "var(--hb)" };
const PAD = { left: 50, right: 14, top: 8, bottom: 22 };
const GAP = 10;

type Props = { scenario: Scenario; contender: number; letter: string };

/** What shines and what passes: the filter in its cone over the sky and the target's lines. */
export function SpectrumChart({ scenario, contender, letter }: Props) {
  const [zoom, setZoom] = useState(0);
  const question = useMemo(() => ({ scenario, contender }), [scenario, contender]);
  const { answer } = useLive(question, (q, signal) =>
    answerOf(
      api.POST("/api/v1/charts/spectrum", { params: { query: { contender: q.contender } }, body: q.scenario, signal }),
    ),
  );
  const range = ZOOMS[zoom]?.range ?? [380, 780];
  const waves = answer?.wavelength_nm ?? [];
  const shown = waves.map((nm, i) => ({ nm, i })).filter(({ nm }) => nm >= range[0] - 2 && nm <= range[1] + 2);
  const twin = {
    columns: [
      "nm",
      ...(answer?.sky.map((s) => `sky ${PARTS[s.part]?.label}`) ?? []),
      ...(answer?.filters.map((f) => f.name ?? "No filter") ?? []),
      ...(answer?.response.map((r) => `sensor ${r.channel}`) ?? []),
    ],
    rows: shown.map(({ nm, i }) => [
      nm.toFixed(2),
      ...(answer?.sky.map((s) => (s.photons[i] ?? 0).toPrecision(3)) ?? []),
      ...(answer?.filters.map((f) => (f.transmission[i] ?? 0).toFixed(4)) ?? []),
      ...(answer?.response.map((r) => (r.response[i] ?? 0).toFixed(3)) ?? []),
    ]),
  };
  const side = (
    <fieldset className="flex gap-0.5">
      <legend className="sr-only">Zoom</legend>
      {ZOOMS.map((z, i) => (
        <button
          key={z.name}
          type="button"
          aria-pressed={i === zoom}
          onClick={() => setZoom(i)}
          className={`min-h-[24px] rounded-full px-2 py-0.5 text-[0.84rem] ${i === zoom ? "bg-raised text-ink" : "text-muted hover:text-ink"}`}
        >
          {z.name}
        </button>
      ))}
    </fieldset>
  );
  return (
    <ChartFrame
      title={`Spectrum of path ${letter}`}
      question="What passes, and what does it let in?"
      twin={twin}
      height={188}
      side={side}
    >
      {(width, height) => {
        if (!answer) return null;
        const split = PAD.top + (height - PAD.top - PAD.bottom - GAP) * 0.42;
        const x = scaleLinear(range, [PAD.left, width - PAD.right]);
        const t = scaleLinear([0, 1], [split, PAD.top]);
        const inside = shown.filter(({ nm }) => nm >= range[0] && nm <= range[1]);
        const total = (i: number) => answer.sky.reduce((sum, s) => sum + (s.photons[i] ?? 0), 0);
        const top = Math.max(1e-12, ...inside.map(({ i }) => total(i))) * 1.25;
        const y = scaleLinear([0, top], [height - PAD.bottom, split + GAP]);
        const floor = height - PAD.bottom;
        let below = (_: number) => 0;
        const layers = answer.sky.map((s) => {
          const from = below;
          const to = (i: number) => from(i) + (s.photons[i] ?? 0);
          below = to;
          return { part: s.part, from, to };
        });
        const curve = (values: number[]) =>
          line<{ nm: number; i: number }>()
            .x((d) => x(d.nm))
            .y((d) => t(values[d.i] ?? 0))(shown) ?? "";
        const inRange = (nm: number) => nm > range[0] && nm < range[1];
        const skyLines = answer.sky_lines.filter((l) => inRange(l.wavelength_nm));
        const strongest = Math.max(1e-12, ...skyLines.map((l) => l.photons));
        const brightest = Math.max(1e-12, ...answer.target_lines.map((l) => l.photons));
        const stick = (share: number) => floor - Math.max(10, Math.sqrt(share) * (floor - split - GAP - 26));
        return (
          <svg
            width={width}
            height={height}
            role="img"
            aria-label={`Filter, sensor, sky and target lines of path ${letter} from ${range[0]} to ${range[1]} nm`}
            style={{ fontFamily: "var(--font-mono)", fontSize: 11.5 }}
          >
            <defs>
              <clipPath id="spectrum-clip">
                <rect x={PAD.left} y={0} width={Math.max(0, width - PAD.left - PAD.right)} height={floor} />
              </clipPath>
            </defs>
            <Axes
              box={[PAD.left, PAD.top, width - PAD.right, floor]}
              x={{ scale: x, ticks: x.ticks(Math.max(4, Math.floor(width / 100))) }}
              y={{ scale: t, ticks: [0, 0.5, 1], text: (v) => `${v * 100} %` }}
            />
            <text x={PAD.left - 6} y={height - 6} textAnchor="end" fill="var(--muted)">
              nm
            </text>
            <g clipPath="url(#spectrum-clip)">
              {answer.response.map((r) => (
                <path
                  key={r.channel}
                  d={curve(r.response)}
                  fill="none"
                  stroke={CHANNEL[r.channel]}
                  strokeWidth={1}
                  strokeDasharray="2 3"
                  opacity={0.75}
                />
              ))}
              {answer.filters.map((f, k) => (
                <g key={`${k}${f.name}`}>
                  <path d={curve(f.head_on)} fill="none" stroke="var(--muted)" strokeWidth={1} strokeDasharray="5 3" />
                  <path
                    d={`${curve(f.transmission)}L${x(range[1] + 2)},${t(0)}L${x(range[0] - 2)},${t(0)}Z`}
                    fill="var(--salt)"
                    opacity={0.3}
                  />
                  <path d={curve(f.transmission)} fill="none" stroke="var(--salt)" strokeWidth={1.8} />
                </g>
              ))}
              {layers.map((l) => (
                <path
                  key={l.part}
                  d={
                    area<{ nm: number; i: number }>()
                      .x((d) => x(d.nm))
                      .y0((d) => y(l.from(d.i)))
                      .y1((d) => y(l.to(d.i)))(shown) ?? ""
                  }
                  fill={PARTS[l.part]?.fill}
                  opacity={PARTS[l.part]?.opacity}
                />
              ))}
              {skyLines.map((l) => (
                <line
                  key={l.name + l.photons}
                  x1={x(l.wavelength_nm)}
                  x2={x(l.wavelength_nm)}
                  y1={floor}
                  y2={stick(l.photons / strongest)}
                  stroke="var(--amber)"
                  strokeWidth={1.5}
                />
              ))}
              {answer.target_lines
                .filter((l) => inRange(l.wavelength_nm))
                .map((l) => (
                  <line
                    key={l.name}
                    x1={x(l.wavelength_nm)}
                    x2={x(l.wavelength_nm)}
                    y1={floor}
                    y2={stick(l.photons / brightest)}
                    stroke={hue(l.quantity ?? "ha")}
                    strokeWidth={3}
                    strokeLinecap="round"
                  />
                ))}
            </g>
            {labels(
              [
                ...skyLines
                  .filter((l) => l.photons > strongest * 0.02 && !l.name.startsWith("airglow"))
                  .map((l) => ({
                    nm: l.wavelength_nm,
                    text: l.name,
                    fill: "var(--amber)",
                    weight: l.photons / strongest,
                  })),
                ...answer.target_lines
                  .filter((l) => inRange(l.wavelength_nm) && l.photons > brightest * 0.02)
                  .map((l) => ({
                    nm: l.wavelength_nm,
                    text: zoom === 0 && l.quantity ? QUANTITY_LABELS[l.quantity] : l.name,
                    fill: hue((l.quantity ?? "ha") as Quantity),
                    weight: 1 + l.photons / brightest,
                  })),
              ],
              x,
            ).map((l) => (
              <text key={l.text + l.at} x={l.at} y={split + GAP + 9 + l.row * 13} textAnchor="middle" fill={l.fill}>
                {l.text}
              </text>
            ))}
            {width > 500 &&
              answer.sky.map((s, i) => (
                <g key={s.part} transform={`translate(${PAD.left + 8 + i * 78} ${PAD.top + 10})`}>
                  <rect width={9} height={9} y={-8} fill={PARTS[s.part]?.fill} opacity={0.8} />
                  <text x={13} fill="var(--muted)">
                    {PARTS[s.part]?.label}
                  </text>
                </g>
              ))}
          </svg>
        );
      }}
    </ChartFrame>
  );
}

/** Labels above their lines in two rows, the most important first; one that finds room in neither is left to the table. */
function labels(wanted: { nm: number; text: string; fill: string; weight: number }[], x: (nm: number) => number) {
  const rows: [number, number][][] = [[], []];
  const seen = new Set<string>();
  const placed: { at: number; row: number; text: string; fill: string }[] = [];
  for (const w of wanted.sort((a, b) => b.weight - a.weight)) {
    if (seen.has(w.text)) continue;
    const half = w.text.length * 3.6 + 4;
    const row = rows.findIndex((occupied) => occupied.every(([a, b]) => x(w.nm) + half < a || x(w.nm) - half > b));
    if (row < 0) continue;
    rows[row]?.push([x(w.nm) - half, x(w.nm) + half]);
    seen.add(w.text);
    placed.push({ at: x(w.nm), row, text: w.text, fill: w.fill });
  }
  return placed;
}
