import { type ScaleLinear, scaleLinear } from "d3-scale";
import { area, line } from "d3-shape";
import type { Quantity, SpectrumView } from "@/api/client";
import { Axes } from "@/charts/Axes";
import { hue, QUANTITY_LABELS } from "@/theme/marks";

export const PARTS: Record<string, { label: string; fill: string; opacity: number }> = {
  natural: { label: "natural", fill: "var(--c4)", opacity: 0.55 },
  artificial: { label: "lamps", fill: "var(--amber)", opacity: 0.5 },
  moon: { label: "moon", fill: "var(--ink)", opacity: 0.45 },
  twilight: { label: "twilight", fill: "var(--c3)", opacity: 0.5 },
};
const CHANNEL: Record<string, string> = { mono: "var(--ink)", r: "var(--ha)", g: "var(--c2)", b: "var(--hb)" };
const PAD = { left: 50, right: 14, top: 8, bottom: 22 };
const GAP = 10;

type Range = [number, number];
type Point = { nm: number; i: number };
type Scale = ScaleLinear<number, number>;

/** The samples of a range with a margin on either side, and where they stand in the answer. */
export const shownOf = (waves: number[], [from, to]: Range): Point[] =>
  waves.map((nm, i) => ({ nm, i })).filter(({ nm }) => nm >= from - 2 && nm <= to + 2);

type Props = {
  answer: SpectrumView;
  range: Range;
  letter: string;
  width: number;
  height: number;
  /** Whether lines of the target are called by their own name, not by that of their quantity. */
  named: boolean;
};

/** Scales and what falls into the range: transmission above, the sky's light below. */
function geometry({ answer, range, width, height }: Props) {
  const shown = shownOf(answer.wavelength_nm, range);
  const split = PAD.top + (height - PAD.top - PAD.bottom - GAP) * 0.42;
  const floor = height - PAD.bottom;
  const inside = shown.filter(({ nm }) => nm >= range[0] && nm <= range[1]);
  const total = (i: number) => answer.sky.reduce((sum, s) => sum + (s.photons[i] ?? 0), 0);
  const top = Math.max(1e-12, ...inside.map(({ i }) => total(i))) * 1.25;
  const inRange = (l: { wavelength_nm: number }) => l.wavelength_nm > range[0] && l.wavelength_nm < range[1];
  const skyLines = answer.sky_lines.filter(inRange);
  return {
    ...{ shown, split, floor, skyLines },
    x: scaleLinear(range, [PAD.left, width - PAD.right]),
    share: scaleLinear([0, 1], [split, PAD.top]),
    photons: scaleLinear([0, top], [floor, split + GAP]),
    targetLines: answer.target_lines.filter(inRange),
    strongest: Math.max(1e-12, ...skyLines.map((l) => l.photons)),
    brightest: Math.max(1e-12, ...answer.target_lines.map((l) => l.photons)),
  };
}
type Geometry = ReturnType<typeof geometry>;

/** The filter in its cone over the sky and the target's lines. */
export function SpectrumPicture(p: Props) {
  const { answer, range, letter, width, height } = p;
  const g = geometry(p);
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
          <rect x={PAD.left} y={0} width={Math.max(0, width - PAD.left - PAD.right)} height={g.floor} />
        </clipPath>
      </defs>
      <Axes
        box={[PAD.left, PAD.top, width - PAD.right, g.floor]}
        x={{ scale: g.x, ticks: g.x.ticks(Math.max(4, Math.floor(width / 100))) }}
        y={{ scale: g.share, ticks: [0, 0.5, 1], text: (v) => `${v * 100} %` }}
      />
      <text x={PAD.left - 6} y={height - 6} textAnchor="end" fill="var(--muted)">
        nm
      </text>
      <g clipPath="url(#spectrum-clip)">
        <Passing answer={answer} range={range} g={g} />
        <SkyLayers answer={answer} g={g} />
        <Sticks g={g} />
      </g>
      {labels(lineNames(g, p.named), g.x).map((l) => (
        <text key={l.text + l.at} x={l.at} y={g.split + GAP + 9 + l.row * 13} textAnchor="middle" fill={l.fill}>
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
}

/** What the sensor records and the filters let through; dashed, the filter head-on. */
function Passing({ answer, range, g }: { answer: SpectrumView; range: Range; g: Geometry }) {
  const { x, share, shown } = g;
  const curve = (values: number[]) =>
    line<Point>()
      .x((d) => x(d.nm))
      .y((d) => share(values[d.i] ?? 0))(shown) ?? "";
  const under = `L${x(range[1] + 2)},${share(0)}L${x(range[0] - 2)},${share(0)}Z`;
  return (
    <>
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
          <path d={curve(f.transmission) + under} fill="var(--salt)" opacity={0.3} />
          <path d={curve(f.transmission)} fill="none" stroke="var(--salt)" strokeWidth={1.8} />
        </g>
      ))}
    </>
  );
}

/** The parts of the sky's light, one upon the other. */
function SkyLayers({ answer, g: { x, photons, shown } }: { answer: SpectrumView; g: Geometry }) {
  let below = (_: number) => 0;
  const layers = answer.sky.map((s) => {
    const from = below;
    const to = (i: number) => from(i) + (s.photons[i] ?? 0);
    below = to;
    return { part: s.part, from, to };
  });
  return layers.map(({ part, from, to }) => (
    <path
      key={part}
      d={
        area<Point>()
          .x((d) => x(d.nm))
          .y0((d) => photons(from(d.i)))
          .y1((d) => photons(to(d.i)))(shown) ?? ""
      }
      fill={PARTS[part]?.fill}
      opacity={PARTS[part]?.opacity}
    />
  ));
}

/** Lines of the sky and of the target, as sticks whose squares are in proportion to their light. */
function Sticks({ g: { x, floor, split, skyLines, targetLines, strongest, brightest } }: { g: Geometry }) {
  const top = (of: number) => floor - Math.max(10, Math.sqrt(of) * (floor - split - GAP - 26));
  return (
    <>
      {skyLines.map((l) => (
        <line
          key={l.name + l.photons}
          x1={x(l.wavelength_nm)}
          x2={x(l.wavelength_nm)}
          y1={floor}
          y2={top(l.photons / strongest)}
          stroke="var(--amber)"
          strokeWidth={1.5}
        />
      ))}
      {targetLines.map((l) => (
        <line
          key={l.name}
          x1={x(l.wavelength_nm)}
          x2={x(l.wavelength_nm)}
          y1={floor}
          y2={top(l.photons / brightest)}
          stroke={hue(l.quantity ?? "ha")}
          strokeWidth={3}
          strokeLinecap="round"
        />
      ))}
    </>
  );
}

type Name = { nm: number; text: string; fill: string; weight: number };

/** The names of the lines that matter: those of the target before those of lamps. */
function lineNames({ skyLines, targetLines, strongest, brightest }: Geometry, named: boolean): Name[] {
  const lamps = skyLines.filter((l) => l.photons > strongest * 0.02 && !l.name.startsWith("airglow"));
  const target = targetLines.filter((l) => l.photons > brightest * 0.02);
  return [
    ...lamps.map((l) => ({
      nm: l.wavelength_nm,
      text: l.name,
      fill: "var(--amber)",
      weight: l.photons / strongest,
    })),
    ...target.map((l) => ({
      nm: l.wavelength_nm,
      text: !named && l.quantity ? QUANTITY_LABELS[l.quantity] : l.name,
      fill: hue((l.quantity ?? "ha") as Quantity),
      weight: 1 + l.photons / brightest,
    })),
  ];
}

/** Labels above their lines in two rows, the most important first; one that finds room in neither is left to the table. */
function labels(wanted: Name[], x: Scale) {
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
