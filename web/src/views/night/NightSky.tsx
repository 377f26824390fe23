import { scaleLinear } from "d3-scale";
import { line } from "d3-shape";
import type { NightAnswer } from "@/api/client";
import { levels } from "@/charts/spread";
import { localTime } from "@/parts/evening";
import { drawn, PAD, type Sample, SKY, slotOf, type TimeScale, targetMark } from "./layout";
import { nightSpan } from "./minutes";

type Props = { night: NightAnswer; x: TimeScale; width: number; height: number };

/** Darkness as depth of ground, the hours, and the heights of target and moon over the limit. */
export function NightSky({ night, x, width, height }: Props) {
  const span = nightSpan(night);
  const shown = drawn(night.first.view.samples, span);
  const y = scaleLinear([0, 90], [PAD.top + SKY, PAD.top]);
  const path = (samples: Sample[], of: (s: Sample) => number) =>
    line<Sample>()
      .x((s) => x(s.at_s))
      .y((s) => y(Math.max(0, of(s))))(samples) ?? "";
  const moon = line<Sample>()
    .defined((s) => s.moon_deg > 0)
    .x((s) => x(s.at_s))
    .y((s) => y(s.moon_deg));
  const limit = path(shown, (s) => s.limit_deg);
  return (
    <>
      <Dark shown={shown} x={x} />
      <Hours night={night} x={x} height={height} />
      {[0, 30, 60, 90].map((a) => (
        <text key={a} x={PAD.left - 8} y={y(a) + 4} textAnchor="end" fill="var(--muted)">
          {a}°
        </text>
      ))}
      <path
        d={`${limit} L${x(shown.at(-1)?.at_s ?? span[1])},${y(0)} L${x(shown[0]?.at_s ?? span[0])},${y(0)} Z`}
        fill="var(--well)"
        opacity={0.75}
      />
      <path d={limit} fill="none" stroke="var(--edge-strong)" strokeDasharray="3 3" />
      <path
        d={moon(shown) ?? ""}
        fill="none"
        stroke="var(--c3)"
        strokeWidth={1.6}
        strokeDasharray="2 4"
        strokeLinecap="round"
      />
      <path d={path(shown, (s) => s.target_deg)} fill="none" stroke="var(--salt)" strokeWidth={2.4} />
      {night.others.map((o, i) => (
        <path
          key={`${i}${o.target}`}
          d={path(drawn(o.view.samples, span), (s) => s.target_deg)}
          fill="none"
          stroke={targetMark(i + 1).colour}
          strokeWidth={2}
          strokeDasharray={targetMark(i + 1).dash}
        />
      ))}
      <Separations night={night} shown={shown} x={x} y={y} />
      <Marks night={night} x={x} width={width} />
      <text x={width < 560 ? 8 : PAD.left} y={14}>
        <tspan fill={targetMark(0).colour}>
          {targetMark(0).sign} {night.first.target}
        </tspan>
        <tspan dx={width < 560 ? 12 : 26} fill="var(--c3)">
          ··· moon, {Math.round(night.first.view.events.moon_lit * 100)} % lit
          {width >= 560 && ", with its distance from the first"}
        </tspan>
        {night.others.map((o, i) => (
          <tspan key={`${i}${o.target}`} dx={width < 560 ? 12 : 26} fill={targetMark(i + 1).colour}>
            {targetMark(i + 1).sign} {o.target}
          </tspan>
        ))}
      </text>
    </>
  );
}

type SeparationProps = { night: NightAnswer; shown: Sample[]; x: TimeScale; y: (deg: number) => number };

/** How far the moon is from the first target, along the moon's own way, while both are up in the dark. */
function Separations({ night, shown, x, y }: SeparationProps) {
  const near = night.rules.near_the_moon_deg;
  const up = shown.filter((s) => s.moon_deg > 3 && s.target_deg > s.limit_deg && s.sun_deg < -6);
  const first = up[0];
  const last = up.at(-1);
  if (!first || !last) return null;
  const hours = (last.at_s - first.at_s) / 3600;
  const step = Math.max(1, Math.ceil(hours / Math.max(1, (x(last.at_s) - x(first.at_s)) / 90)));
  const ticks = up.filter((s) => Math.round((s.at_s - first.at_s) / 300) % (step * 12) === 6);
  return ticks.map((s) => (
    <text
      key={s.at_s}
      x={x(s.at_s)}
      y={y(s.moon_deg) + (s.moon_deg > 70 ? 16 : -7)}
      textAnchor="middle"
      fill={s.moon_distance_deg < near ? "var(--amber)" : "var(--c3)"}
      fontWeight={s.moon_distance_deg < near ? 700 : 400}
      stroke="var(--surface)"
      strokeWidth={4}
      paintOrder="stroke"
    >
      <title>{`${night.first.target} and the moon at ${localTime(s.at_s, night.clock)}`}</title>
      {Math.round(s.moon_distance_deg)}° away
    </text>
  ));
}

/** The glow of the sun below the horizon. */
function Dark({ shown, x }: { shown: Sample[]; x: TimeScale }) {
  const slot = slotOf(x);
  return shown.map((s) => (
    <rect
      key={s.at_s}
      shapeRendering="crispEdges"
      x={x(s.at_s) - slot / 2}
      width={slot}
      y={PAD.top}
      height={SKY}
      fill="var(--amber)"
      opacity={0.34 * Math.max(0, Math.min(1, (s.sun_deg + 18) / 18)) ** 1.4}
    />
  ));
}

/** A line every hour; as many hours are named as there is room for. */
function Hours({ night, x, height }: { night: NightAnswer; x: TimeScale; height: number }) {
  const [first, last] = nightSpan(night);
  const hours: number[] = [];
  for (let t = Math.ceil(first / 3600) * 3600; t <= last; t += 3600) hours.push(t);
  const named = [1, 2, 3, 6].find((n) => x(first + n * 3600) - x(first) > 24) ?? 6;
  return hours.map((t) => (
    <g key={t}>
      <line x1={x(t)} x2={x(t)} y1={PAD.top} y2={height - 6} stroke="var(--edge)" strokeWidth={0.6} />
      {Number(localTime(t, night.clock).slice(0, 2)) % named === 0 && (
        <text x={x(t)} y={PAD.top + SKY + 16} textAnchor="middle" fill="var(--muted)">
          {localTime(t, night.clock).slice(0, 2)}
        </text>
      )}
    </g>
  ));
}

/** Dusk, dawn, meridian, the moon's rise and set; words that would meet stand one below the other. */
function Marks({ night, x, width }: Omit<Props, "height">) {
  const { events } = night.first.view;
  const [first, last] = nightSpan(night);
  const named: [string, number | null | undefined][] = [
    ["dark", events.dusk_s],
    ["dawn", events.dawn_s],
    ["meridian", events.transit_s],
    ["moonrise", events.moonrise_s],
    ["moonset", events.moonset_s],
  ];
  const marks = named.flatMap(([name, t]) =>
    t != null && t > first && t < last
      ? [{ t, text: `${name} ${localTime(t, night.clock)}`, left: x(t) > width - 110 }]
      : [],
  );
  const lifts = levels(
    marks.map(({ t, text, left }) => {
      const reach = 12 + 7 * text.length;
      return left ? [x(t) - reach, x(t)] : [x(t), x(t) + reach];
    }),
  );
  return marks.map(({ t, text, left }, i) => (
    <g key={text}>
      <line
        x1={x(t)}
        x2={x(t)}
        y1={PAD.top}
        y2={PAD.top + SKY}
        stroke={text.startsWith("moon") ? "var(--c3)" : "var(--edge-strong)"}
        strokeDasharray="1 3"
      />
      <text
        x={x(t) + (left ? -4 : 4)}
        textAnchor={left ? "end" : "start"}
        y={PAD.top + 12 + (lifts[i] ?? 0) * 14}
        fill={text.startsWith("moon") ? "var(--c3)" : "var(--muted)"}
      >
        {text}
      </text>
    </g>
  ));
}
