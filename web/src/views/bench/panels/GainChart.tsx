import { scaleLinear, scalePoint } from "d3-scale";
import type { GainDecision, Scenario } from "@/api/client";
import { ChartFrame } from "@/charts/ChartFrame";
import { choose } from "@/parts/choices";
import { Button } from "@/parts/controls/Button";
import { Select } from "@/parts/controls/Select";
import { fixed, percent } from "@/parts/format";

type Props = {
  scenario: Scenario;
  /** What is decided about the gain; undefined until it is known. */
  gain: GainDecision | undefined;
  contender: number;
  letter: string;
  change: (edit: (draft: Scenario) => void) => void;
};

const PAD = { left: 48, right: 52, top: 16, bottom: 30 };

/** The gain ladder: what each setting gives, and the one to use. */
export function GainChart({ scenario, gain, contender, letter, change }: Props) {
  const options = gain?.options ?? [];
  const yours = scenario.contenders[contender]?.gain ?? 0;
  const purpose = scenario.choices?.purpose ?? "imaging";
  const set = (setting: number) =>
    change((s) => {
      const c = s.contenders[contender];
      if (c) c.gain = setting;
    });
  const scale = gain?.scale === "ISO" ? "ISO" : "Gain";
  const share = (x: number) => (x * 100).toPrecision(3);
  const twin = {
    columns: [
      scale,
      "e-/ADU",
      "Read noise (e-)",
      "Full scale (e-)",
      "Range (stops)",
      ...["", ", low", ", high"].map((end) => `Sub${end} (s)`),
      "Stars clip above (V mag)",
      "Core fills (%)",
      ...["", ", low", ", high"].map((end) => `Information${end} (% of the best)`),
      "Within limits",
    ],
    rows: options.map((r) => [
      r.setting,
      r.e_per_adu.toPrecision(3),
      r.read_noise_e.toFixed(2),
      r.full_scale_e.toFixed(0),
      r.range_stops.toFixed(1),
      ...[r.sub_s, r.sub_range_s.low, r.sub_range_s.high].map((t) => t.toPrecision(3)),
      // Where the sky itself clips there is no star to name.
      r.star_clips_v_mag == null ? "" : fixed(r.star_clips_v_mag, 1),
      share(r.core_fill),
      ...[r.information, r.information_range.low, r.information_range.high].map(share),
      r.within_limits ? "yes" : "no",
    ]),
  };
  return (
    <ChartFrame
      title={`${scale} ladder, path ${letter}`}
      question="Which setting gives the most per hour, and what does it cost in range?"
      twin={twin}
      height={200}
      side={
        <div className="w-40">
          <Select
            hideLabel
            label="Purpose"
            value={purpose}
            options={[
              { value: "imaging", label: "A stack to keep" },
              { value: "live", label: "Live viewing" },
            ]}
            onChange={(v) => change((s) => choose(s, { purpose: v as "imaging" | "live" }))}
            testId="purpose"
          />
        </div>
      }
      below={
        gain && (
          <div className="mt-1 flex flex-wrap items-center gap-3">
            <p className="min-w-0 flex-1 basis-72 leading-5" data-testid="gain-text">
              {scale} {gain.text}.
            </p>
            <Button look="lit" disabled={gain.advised === yours} onClick={() => set(gain.advised)}>
              Use {scale.toLowerCase() === "iso" ? "ISO" : "gain"} {gain.advised}
            </Button>
          </div>
        )
      }
    >
      {(width, height) => {
        if (!gain) return <div style={{ height }} />;
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
            {options.map((r) => {
              const advised = r.setting === gain.advised;
              const mine = r.setting === yours;
              return (
                <g
                  key={r.setting}
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
                    x={at(r.setting) - bar / 2}
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
                      d={`M${at(r.setting) - 6},${info(r.information_range.low)} h12 m-6,0 V${info(r.information_range.high)} m-6,0 h12`}
                      fill="none"
                      stroke="var(--ink)"
                      strokeWidth={1.2}
                    />
                  )}
                  {gain.also_advised.includes(r.setting) && (
                    <path
                      d={`M${at(r.setting) - 5},${height - PAD.bottom + 21} h10`}
                      stroke="var(--salt)"
                      strokeWidth={2.5}
                    />
                  )}
                  <text
                    x={at(r.setting)}
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
                    x={at(r.setting)}
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
                    x={at(r.setting)}
                    y={height - PAD.bottom + 16}
                    textAnchor="middle"
                    fill={mine ? "var(--decide)" : "var(--muted)"}
                    fontWeight={mine ? 700 : 400}
                  >
                    {r.setting}
                  </text>
                </g>
              );
            })}
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
      }}
    </ChartFrame>
  );
}
