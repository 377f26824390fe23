import { scaleLinear, scaleLog } from "d3-scale";
import { area, line } from "d3-shape";
import { useRef } from "react";
import type { Choices, Decisions, Scenario, School } from "@/api/client";
import { Axes } from "@/charts/Axes";
import { ChartFrame } from "@/charts/ChartFrame";
import { apart, spread } from "@/charts/spread";
import { choose } from "@/parts/choices";
import { mag, seconds } from "@/parts/format";
import { Button, NumberField, Select } from "@/parts/ui";
import { Words } from "@/parts/Words";
import { hue, QUANTITY_LABELS } from "@/theme/marks";
import { SchoolTable } from "./SchoolTable";
import { SCHOOL_LABELS } from "./schools";

type Change = (edit: (draft: Scenario) => void) => void;
type Props = {
  scenario: Scenario;
  decisions: Decisions | undefined;
  contender: number;
  exposure: number;
  setExposure: (i: number) => void;
  letter: string;
  change: Change;
};

/** The number that belongs to a school, if it has one. */
const PARAMETER: Partial<
  Record<School, { key: keyof Choices; label: string; unit?: string; min: number; max: number; times?: number }>
> = {
  excess: { key: "excess", label: "Noise added", unit: "%", min: 0.1, max: 100, times: 100 },
  swamp: { key: "swamp_factor", label: "Sky over read noise²", unit: "×", min: 0.1, max: 1000 },
  histogram_adu: { key: "histogram_adu", label: "Above the offset", unit: "ADU", min: 1, max: 1e6 },
  histogram_fraction: { key: "histogram_fraction", label: "Of full scale", unit: "%", min: 0.1, max: 90, times: 100 },
  test_shot: { key: "faint_snr", label: "Faintly seen at SNR", min: 0.1, max: 100 },
  many_frames: { key: "least_frames", label: "At least", unit: "frames", min: 1, max: 10000 },
};

const PAD = { left: 46, right: 16, top: 50, bottom: 30 };
const DEFAULTS: Record<string, number> = {
  excess: 0.05,
  swamp_factor: 10,
  histogram_adu: 500,
  histogram_fraction: 0.05,
  faint_snr: 3,
  least_frames: 20,
};

/** Information per hour against the length of a sub: how long, and how little it matters. */
export function SubChart({ scenario, decisions, contender, exposure, setExposure, letter, change }: Props) {
  const drag = useRef(false);
  const list = decisions?.paths[contender]?.subs ?? [];
  const at = Math.min(exposure, Math.max(0, list.length - 1));
  const sub = list[at];
  const choices = scenario.choices;
  const school = choices?.school ?? "best";
  const parameter = PARAMETER[school];
  const yours = scenario.contenders[contender]?.exposures[at]?.sub_s ?? sub?.yours_s ?? 60;
  const setSub = (t: number) =>
    change((s) => {
      const e = s.contenders[contender]?.exposures[at];
      if (e) e.sub_s = Number(t.toPrecision(t < 10 ? 2 : 3));
    });
  // As the sentence says it: two figures.
  const advice = Number((sub?.advised_s ?? yours).toPrecision(2));
  const curves = sub?.curves ?? [];
  const twin = {
    columns: [
      "Sub (s)",
      ...curves.flatMap((c) =>
        ["share of best", "low", "high"].map((end) => `${QUANTITY_LABELS[c.quantity]}, ${c.channel} (${end})`),
      ),
    ],
    rows: (sub?.chart_s ?? []).map((t, i) => [
      t.toPrecision(4),
      ...curves.flatMap((c) => [c.information, c.low, c.high].map((v) => (v[i] ?? 0).toFixed(3))),
    ]),
  };
  return (
    <ChartFrame
      title={`Length of a sub, path ${letter}`}
      question="How much information per hour does a sub of each length give?"
      twin={twin}
      height={214}
      side={
        <>
          {list.length > 1 && (
            <div className="w-40">
              <Select
                hideLabel
                label="Filter of the sub"
                value={String(at)}
                options={list.map((d, i) => ({ value: String(i), label: d.filter ?? "No filter" }))}
                onChange={(v) => setExposure(Number(v))}
                testId="sub-exposure"
              />
            </div>
          )}
          <div className="w-40">
            <Select
              hideLabel
              label="School"
              value={school}
              options={Object.entries(SCHOOL_LABELS).map(([value, label]) => ({ value, label }))}
              onChange={(v) => change((s) => choose(s, { school: v as School }))}
              testId="school"
            />
          </div>
        </>
      }
      below={
        sub && (
          <div className="mt-1 flex flex-col gap-2">
            <div className="flex flex-wrap items-end gap-x-4 gap-y-1">
              <p className="min-w-0 flex-1 basis-72 leading-5" data-testid="sub-text">
                <Words text={`${sub.text}.`} />
              </p>
              {parameter && (
                <div className="w-44">
                  <NumberField
                    label={parameter.label}
                    unit={parameter.unit}
                    min={parameter.min}
                    max={parameter.max}
                    value={Number(
                      (
                        Number(choices?.[parameter.key] ?? DEFAULTS[parameter.key] ?? 0) * (parameter.times ?? 1)
                      ).toPrecision(6),
                    )}
                    onChange={(v) => change((s) => choose(s, { [parameter.key]: v / (parameter.times ?? 1) }))}
                    testId="school-parameter"
                  />
                </div>
              )}
              <Button
                look="lit"
                disabled={Math.abs(advice / yours - 1) < 0.01}
                onClick={() => setSub(advice)}
                data-testid="use-sub"
              >
                Use {seconds(advice)}
              </Button>
            </div>
            {sub.test_frame && (
              <div className="flex flex-wrap items-center gap-2 text-[0.93rem]" data-testid="test-frame-told">
                <p className={`min-w-0 grow basis-80 ${sub.test_frame.agrees ? "" : "text-amber"}`}>
                  {sub.test_frame.text}
                </p>
                {sub.test_frame.toward_target_v_mag != null && (
                  <Button
                    onClick={() => {
                      const v = sub.test_frame?.toward_target_v_mag;
                      change((s) => void (s.sky.toward_target_v_mag = v ?? null));
                    }}
                  >
                    Take {mag(sub.test_frame.toward_target_v_mag)} mag/″² as the sky there
                  </Button>
                )}
              </div>
            )}
            <SchoolTable criteria={sub.criteria} school={school} />
            {(sub.conflict || sub.short_set) && (
              <ul className="flex flex-col gap-1 text-[0.93rem]">
                {sub.conflict && (
                  <li>
                    <b className="font-medium text-amber">Two lines, one filter.</b> <Words text={sub.conflict.text} />
                  </li>
                )}
                {sub.short_set && (
                  <li>
                    <b className="font-medium text-amber">A second set.</b> {sub.short_set.text}
                  </li>
                )}
              </ul>
            )}
          </div>
        )
      }
    >
      {(width, height) => {
        if (!sub) return <div style={{ height }} />;
        const [from, to] = [sub.chart_s[0] ?? 1, sub.chart_s.at(-1) ?? 3600];
        const x = scaleLog([from, to], [PAD.left, width - PAD.right]);
        const y = scaleLinear([0, 1.02], [height - PAD.bottom, PAD.top]);
        const path = line<number>()
          .x((_, i) => x(sub.chart_s[i] ?? from))
          .y((v) => y(v));
        const inside = (t: number | null | undefined) => t != null && t >= from && t <= to;
        const marks = sub.criteria.filter((c) => inside(c.sub_s)).sort((a, b) => (a.sub_s ?? 0) - (b.sub_s ?? 0));
        // Where the names of all schools would overlap, the chosen one is named; the table beneath names them all.
        const narrow = width < 460;
        const labels = spread(
          marks.map((c) => x(c.sub_s ?? 1)),
          Math.min(92, (width - PAD.left - PAD.right) / Math.max(1, marks.length)),
          [PAD.left + 30, width - PAD.right - 40],
        );
        const walls = sub.walls.filter((w) => inside(w.beyond_s));
        const [pf = from, pt = to] = sub.plateau_s;
        const clampX = (t: number) => x(Math.min(to, Math.max(from, t)));
        const band = area<number>().x((_, i) => x(sub.chart_s[i] ?? from));
        const [sf = from, st = from] = sub.range.sure_s ?? [];
        const handleX = clampX(yours);
        const move = (e: React.PointerEvent<SVGElement>) => {
          if (!drag.current) return;
          const box = e.currentTarget.ownerSVGElement?.getBoundingClientRect();
          if (box) setSub(Math.min(to, Math.max(from, x.invert(e.clientX - box.left))));
        };
        return (
          <svg
            width={width}
            height={height}
            aria-label="Information per hour against the length of a sub"
            role="group"
            style={{ fontFamily: "var(--font-mono)", fontSize: 11.5 }}
          >
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
            <Axes
              box={[PAD.left, PAD.top, width - PAD.right, height - PAD.bottom]}
              x={{
                scale: x,
                ticks: apart(
                  [1, 3, 10, 30, 60, 120, 300, 600, 1200, 3600].filter(
                    (t) => inside(t) && x(t) < width - PAD.right - 12,
                  ),
                  x,
                  38,
                ),
                text: (t) => `${t} s`,
              }}
              y={{ scale: y, ticks: [0, 0.5, 0.95], text: (v) => `${v * 100} %`, grid: true }}
            />
            {walls.map((w, i) => (
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
                  {["──", "─ ─", "···"][i % 3]} {QUANTITY_LABELS[c.quantity]}
                  {curves.length > 1 || c.channel !== "mono" ? `, ${c.channel}` : ""}
                </text>
              </g>
            ))}
            {marks.map((c, i) => (
              <path
                key={c.school}
                d={`M${labels[i]},${i % 2 ? 16 : 30} L${x(c.sub_s ?? 1)},${PAD.top - 4} L${x(c.sub_s ?? 1)},${PAD.top + 6}`}
                fill="none"
                stroke={c.school === school ? "var(--amber)" : "var(--edge-strong)"}
              />
            ))}
            {marks
              .filter((c) => c.school === school && c.sub_range_s)
              .map((c) => (
                <line
                  key={c.school}
                  x1={clampX(c.sub_range_s?.low ?? 1)}
                  x2={clampX(c.sub_range_s?.high ?? 1)}
                  y1={PAD.top + 2}
                  y2={PAD.top + 2}
                  stroke="var(--amber)"
                  strokeWidth={4}
                  opacity={0.55}
                />
              ))}
            {marks.map((c, i) => (
              <text
                key={c.school}
                x={labels[i]}
                y={i % 2 ? 12 : 26}
                textAnchor="middle"
                fill={c.school === school ? "var(--amber)" : "var(--muted)"}
                stroke="var(--surface)"
                strokeWidth={5}
                paintOrder="stroke"
                strokeLinejoin="round"
                style={{ fontSize: 10.5 }}
              >
                {narrow && c.school !== school ? "" : SCHOOL_LABELS[c.school]}
              </text>
            ))}
            <g
              role="slider"
              tabIndex={0}
              aria-label={`Your sub of path ${letter}`}
              aria-valuemin={Math.round(from)}
              aria-valuemax={Math.round(to)}
              aria-valuenow={yours}
              aria-valuetext={seconds(yours)}
              data-testid="sub-handle"
              style={{ cursor: "ew-resize", touchAction: "none" }}
              onPointerDown={(e) => {
                drag.current = true;
                e.currentTarget.setPointerCapture(e.pointerId);
              }}
              onPointerMove={move}
              onPointerUp={() => {
                drag.current = false;
              }}
              onKeyDown={(e) => {
                const by = {
                  ArrowRight: 1.05,
                  ArrowUp: 1.05,
                  ArrowLeft: 1 / 1.05,
                  ArrowDown: 1 / 1.05,
                  PageUp: 1.5,
                  PageDown: 1 / 1.5,
                }[e.key];
                if (by) {
                  e.preventDefault();
                  setSub(Math.min(to, Math.max(from, yours * by)));
                }
              }}
            >
              <rect
                x={handleX - 9}
                y={PAD.top - 8}
                width={18}
                height={height - PAD.bottom - PAD.top + 16}
                fill="transparent"
              />
              <line
                x1={handleX}
                x2={handleX}
                y1={PAD.top - 2}
                y2={height - PAD.bottom}
                stroke="var(--decide)"
                strokeWidth={2}
              />
              <circle
                cx={handleX}
                cy={height - PAD.bottom}
                r={7}
                fill="var(--salt)"
                stroke="var(--ground)"
                strokeWidth={2}
              />
              <text
                x={handleX + (handleX > width - 110 ? -10 : 10)}
                y={height - PAD.bottom - 24}
                textAnchor={handleX > width - 110 ? "end" : "start"}
                fill="var(--decide)"
                stroke="var(--surface)"
                strokeWidth={6}
                paintOrder="stroke"
                strokeLinejoin="round"
                style={{ fontSize: 13 }}
              >
                yours {seconds(yours)}
              </text>
            </g>
          </svg>
        );
      }}
    </ChartFrame>
  );
}
