import { type ScaleLinear, scaleLinear, scalePoint } from "d3-scale";
import type { GainDecision } from "@/api/client";
import { percent } from "@/parts/format";

const PAD = { left: 48, right: 52, top: 16, bottom: 30 };

type Props = {
  gain: GainDecision;
  /** The setting in use. */
  yours: number;
  scale: string;
  set: (setting: number) => void;
  width: number;
  height: number;
};

/** Every setting's information as a bar, its read noise as a line over them. */
export function GainPicture({ gain, yours, scale, set, width, height }: Props) {
  const options = gain.options;
  const x = scalePoint(
    options.map((r) => String(r.setting)),
    [PAD.left + 24, width - PAD.right - 24],
  );
  const at = (s: number) => x(String(s)) ?? 0;
  const info = scaleLinear([0, 1], [height - PAD.bottom, PAD.top + 14]);
  const most = Math.max(...options.map((r) => r.read_noise_e));
  const read = scaleLinear([0, most * 1.15], [height - PAD.bottom, PAD.top]);
  const step = options.length > 1 ? (width - PAD.left - PAD.right - 48) / (options.length - 1) : 60;
  const bar = Math.min(34, step * 0.5);
  return (
    <svg
      width={width}
      height={height}
      role="group"
      aria-label={`${scale} settings: information as bars, read noise as a line`}
      style={{ fontFamily: "var(--font-mono)", fontSize: 11.5 }}
    >
      <text x={PAD.left - 8} y={PAD.top - 4} textAnchor="end" fill="var(--amber)">
        R, e-
      </text>
      {read.ticks(4).map((t) => (
        <text key={t} x={PAD.left - 8} y={read(t) + 4} textAnchor="end" fill="var(--amber)">
          {t}
        </text>
      ))}
      {options.map((r) => (
        <GainBar
          key={r.setting}
          {...{ gain, yours, scale, set }}
          option={r}
          sheet={{ x: at(r.setting), height, bar, step, info }}
        />
      ))}
      <polyline
        points={options.map((r) => `${at(r.setting)},${read(r.read_noise_e)}`).join(" ")}
        fill="none"
        stroke="var(--amber)"
        strokeWidth={1.8}
        strokeDasharray="5 3"
      />
      {options.map((r) => (
        <circle key={r.setting} cx={at(r.setting)} cy={read(r.read_noise_e)} r={2.6} fill="var(--amber)" />
      ))}
      <text x={width - PAD.right + 4} y={PAD.top + 10} fill="var(--muted)" style={{ fontSize: 10.5 }}>
        % per h
      </text>
      <text x={width - PAD.right + 4} y={height - PAD.bottom - 6} fill="var(--muted)" style={{ fontSize: 10.5 }}>
        stops
      </text>
    </svg>
  );
}

type BarProps = Pick<Props, "gain" | "yours" | "scale" | "set"> & {
  option: GainDecision["options"][number];
  /** Where the bar stands, how wide it is, how far the next one is off, and the scale of its height. */
  sheet: { x: number; height: number; bar: number; step: number; info: ScaleLinear<number, number> };
};

/** One setting: click it, or press Enter on it, to use it. */
function GainBar({ gain, yours, scale, set, option: r, sheet: { x, height, bar, step, info } }: BarProps) {
  const advised = r.setting === gain.advised;
  const mine = r.setting === yours;
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={`${scale} ${r.setting}: ${percent(r.information)} of the best, ${r.range_stops.toFixed(1)} stops${r.within_limits ? "" : ", clips"}${gain.also_advised.includes(r.setting) ? ", advised under another sky" : ""}${mine ? ", yours" : ""}${advised ? ", advised" : ""}`}
      onClick={() => set(r.setting)}
      onKeyDown={(e) => {
        if (e.key === "Enter" || e.key === " ") {
          e.preventDefault();
          set(r.setting);
        }
      }}
      style={{ cursor: "pointer" }}
    >
      <rect
        x={x - bar / 2}
        width={bar}
        y={info(r.information)}
        height={height - PAD.bottom - info(r.information)}
        rx={3}
        fill={advised ? "var(--salt)" : "var(--salt-deep)"}
        opacity={r.within_limits ? (advised ? 0.95 : 0.6) : 0.25}
        stroke={mine ? "var(--decide)" : "none"}
        strokeWidth={2}
      />
      {r.information_range.high - r.information_range.low > 0.004 && (
        <path
          data-testid="gain-range"
          d={`M${x - 6},${info(r.information_range.low)} h12 m-6,0 V${info(r.information_range.high)} m-6,0 h12`}
          fill="none"
          stroke="var(--ink)"
          strokeWidth={1.2}
        />
      )}
      {gain.also_advised.includes(r.setting) && (
        <path d={`M${x - 5},${height - PAD.bottom + 21} h10`} stroke="var(--salt)" strokeWidth={2.5} />
      )}
      <text
        x={x}
        y={info(Math.max(r.information, r.information_range.high)) - 5}
        textAnchor="middle"
        fill="var(--ink)"
        stroke="var(--surface)"
        strokeWidth={6}
        paintOrder="stroke"
        strokeLinejoin="round"
        style={{ fontSize: 10.5 }}
      >
        {step > 44 ? (r.information * 100).toFixed(0) : ""}
      </text>
      <text
        x={x}
        y={height - PAD.bottom - 6}
        textAnchor="middle"
        fill={advised ? "var(--on-salt)" : "var(--ink)"}
        stroke={advised ? "none" : "var(--surface)"}
        strokeWidth={6}
        paintOrder="stroke"
        strokeLinejoin="round"
        style={{ fontSize: 10.5 }}
      >
        {step > 44 ? r.range_stops.toFixed(1) : ""}
      </text>
      <text
        x={x}
        y={height - PAD.bottom + 16}
        textAnchor="middle"
        fill={mine ? "var(--decide)" : "var(--muted)"}
        fontWeight={mine ? 700 : 400}
      >
        {r.setting}
      </text>
    </g>
  );
}
