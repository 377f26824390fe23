import { scaleLinear } from "d3-scale";
import { line } from "d3-shape";
import { memo, type ReactNode, useEffect, useMemo, useRef, useState } from "react";
import type { LockedBlock, NightAnswer, PlanBlock } from "@/api/client";
import { ChartFrame } from "@/charts/ChartFrame";
import { levels } from "@/charts/spread";
import { localTime } from "@/parts/evening";
import { many } from "@/parts/format";
import { hue } from "@/theme/marks";
import type { Whose } from "./locks";
import { minuteWords, nightSpan, nightTable, sampleAt } from "./minutes";

type Props = {
  night: NightAnswer;
  /** Moves what stands where `was` says to `to`, and keeps it there. */
  lock: (whose: Whose, was: LockedBlock, to: LockedBlock) => void;
  toggle: (whose: Whose, block: PlanBlock) => void;
  locked: Readonly<Record<Whose, readonly LockedBlock[]>>;
};

const PAD = { left: 112, right: 18, top: 22 };
const SKY = 210;
const RIBBON = 19;
const BLOCK = 44;
const STEP_S = 300;

const blockId = (whose: Whose, i: number) => (whose === "first" ? `block-${i}` : `block-second-${i}`);

type Drag = { whose: Whose; index: number; edge: "from" | "to" | "both"; start: number; from: number; to: number };

const top = (i: number) => PAD.top + SKY + 30 + i * (RIBBON + 3);
const heightOf = (night: NightAnswer) => top(night.filters.length) + 14 + BLOCK + (night.second ? BLOCK + 6 : 0);

/** Dusk to dawn: darkness, target, moon; what each filter gathers; the plan's blocks to drag; any minute read out. */
export function NightChart({ side, ...props }: Props & { side?: ReactNode }) {
  const { night } = props;
  const [minute, setMinute] = useState<number | null>(null);
  const twin = useMemo(() => nightTable(night), [night]);
  const sample = minute == null ? undefined : sampleAt(night, minute);
  return (
    <ChartFrame
      title="The night"
      question="Which filter at which hour?"
      twin={twin}
      height={heightOf(night)}
      side={side}
      below={
        <p className="mt-1 min-h-9 text-[0.86rem] text-muted print:hidden" data-testid="minute">
          {sample
            ? minuteWords(night, sample)
            : "Drag a block or its edges; what you move is locked and the rest is planned anew. Double click or Enter locks. Point at any minute to read it."}
        </p>
      }
    >
      {(width, height) => (
        <NightDrawing {...props} width={width} height={height} sampleAt={sample?.at_s} point={setMinute} />
      )}
    </ChartFrame>
  );
}

type DrawingProps = Props & {
  width: number;
  height: number;
  /** The minute that is read out. */
  sampleAt: number | undefined;
  point: (at_s: number | null) => void;
};

function NightDrawing({ sampleAt: at_s, point, width, height, ...props }: DrawingProps) {
  const [first, last] = nightSpan(props.night);
  const x = scaleLinear([first, last], [PAD.left, Math.max(PAD.left + 10, width - PAD.right)]).clamp(true);
  return (
    <div
      className="relative"
      onPointerMove={(e) => point(x.invert(e.clientX - e.currentTarget.getBoundingClientRect().left))}
      onPointerLeave={() => point(null)}
    >
      <Picture {...props} width={width} height={height} />
      {at_s != null && (
        <div
          aria-hidden
          className="pointer-events-none absolute w-px bg-ink opacity-60"
          style={{ left: x(at_s), top: PAD.top, height: height - PAD.top - 6 }}
        />
      )}
    </div>
  );
}

/** The chart itself: drawn anew when the night changes, not when a minute is pointed at. */
const Picture = memo(function Picture({
  night,
  lock,
  toggle,
  locked,
  width,
  height,
}: Props & { width: number; height: number }) {
  const box = useRef<HTMLDivElement>(null);
  const [drag, setDrag] = useState<Drag | null>(null);
  const { view, plan } = night.first;
  const { samples, events } = view;
  const [first, last] = nightSpan(night);
  // A minute is about a pixel wide: every fifth is drawn.
  const seen = (all: typeof samples) => all.filter((s, i) => i % 5 === 0 && s.at_s >= first && s.at_s <= last);
  const shown = seen(samples);
  const x = scaleLinear([first, last], [PAD.left, Math.max(PAD.left + 10, width - PAD.right)]);
  const y = scaleLinear([0, 90], [PAD.top + SKY, PAD.top]);
  const path = (of: (s: (typeof shown)[number]) => number) =>
    line<(typeof shown)[number]>()
      .x((s) => x(s.at_s))
      .y((s) => y(Math.max(0, of(s))))(shown) ?? "";
  const filters = night.filters;
  const blocksTop = top(filters.length) + 8;
  const most = filters.map((_, i) => Math.max(1e-12, ...samples.map((s) => s.information_per_h[i] ?? 0)));
  const quantityOf = (exposure: number) => plan.totals[exposure]?.quantity ?? "continuum";
  const slot = width > 0 ? Math.max(1, x(first + STEP_S) - x(first)) : 1;
  const hours: number[] = [];
  for (let t = Math.ceil(first / 3600) * 3600; t <= last; t += 3600) hours.push(t);
  // As many hours are named as there is room for.
  const named = [1, 2, 3, 6].find((n) => x(first + n * 3600) - x(first) > 24) ?? 6;
  const dragged = (whose: Whose, index: number) => drag?.whose === whose && drag.index === index;
  const at = (whose: Whose, index: number, b: PlanBlock) =>
    drag && dragged(whose, index) ? { from: drag.from, to: drag.to } : { from: b.from_s, to: b.to_s };
  const rows = [
    { whose: "first" as const, of: night.first, top: blocksTop, edge: "var(--ground)" },
    ...(night.second
      ? [{ whose: "second" as const, of: night.second, top: blocksTop + BLOCK + 6, edge: "var(--c2)" }]
      : []),
  ];
  const marks = (
    [
      ["dark", events.dusk_s],
      ["dawn", events.dawn_s],
      ["meridian", events.transit_s],
      ["moonrise", events.moonrise_s],
      ["moonset", events.moonset_s],
    ] as const
  ).flatMap(([name, t]) =>
    t != null && t > first && t < last
      ? [{ t, text: `${name} ${localTime(t, night.clock)}`, left: x(t) > width - 110 }]
      : [],
  );
  // Words that would meet stand one below the other.
  const lifts = levels(
    marks.map(({ t, text, left }) => {
      const reach = 12 + 7 * text.length;
      return left ? [x(t) - reach, x(t)] : [x(t), x(t) + reach];
    }),
  );
  const move = (e: React.PointerEvent, b: PlanBlock) => {
    if (!drag || !box.current) return;
    const t = x.invert(e.clientX - box.current.getBoundingClientRect().left);
    const by = Math.round((t - drag.start) / STEP_S) * STEP_S;
    setDrag({
      ...drag,
      from: drag.edge === "to" ? drag.from : b.from_s + by,
      to: drag.edge === "from" ? drag.to : b.to_s + by,
    });
  };
  const grab = (e: React.PointerEvent<SVGElement>, whose: Whose, index: number, b: PlanBlock, edge: Drag["edge"]) => {
    if (!box.current) return;
    e.stopPropagation();
    (e.currentTarget as SVGElement).setPointerCapture(e.pointerId);
    const start = x.invert(e.clientX - box.current.getBoundingClientRect().left);
    setDrag({ whose, index, edge, start, from: b.from_s, to: b.to_s });
  };
  const drop = (b: PlanBlock) => {
    if (drag && drag.to - drag.from >= STEP_S && (drag.from !== b.from_s || drag.to !== b.to_s))
      lock(drag.whose, b, { exposure: b.exposure, from_s: drag.from, to_s: drag.to });
    setDrag(null);
  };
  // The block that arrows move: where it was last put, though the plan that shows it there may still be on its way.
  const held = useRef<{ whose: Whose; index: number; at: LockedBlock } | null>(null);
  const hold = (whose: Whose, index: number) => {
    if (held.current?.whose !== whose || held.current.index !== index) held.current = null;
  };
  useEffect(() => {
    const own = held.current;
    if (!own) return;
    const blocks = (own.whose === "first" ? night.first : night.second)?.plan.blocks ?? [];
    const off = (b: PlanBlock) => (b.exposure === own.at.exposure ? Math.abs(b.from_s - own.at.from_s) : Infinity);
    const index = blocks.reduce((best, b, i) => (off(b) < off(blocks[best] ?? b) ? i : best), 0);
    own.index = index;
    const inside = document.activeElement === document.body || box.current?.contains(document.activeElement);
    if (inside) box.current?.querySelector<SVGGElement>(`[data-testid="${blockId(own.whose, index)}"]`)?.focus();
  }, [night]);
  const key = (e: React.KeyboardEvent, whose: Whose, index: number, b: PlanBlock) => {
    const by = { ArrowLeft: -STEP_S, ArrowRight: STEP_S }[e.key];
    if (by) {
      e.preventDefault();
      const own = held.current?.whose === whose && held.current.index === index ? held.current.at : b;
      const from_s = e.shiftKey ? own.from_s : own.from_s + by;
      const to = { exposure: b.exposure, from_s, to_s: Math.max(from_s + STEP_S, own.to_s + by) };
      held.current = { whose, index, at: to };
      lock(whose, own, to);
    }
    if (e.key === "Enter" || e.key === " ") {
      e.preventDefault();
      toggle(whose, b);
    }
  };
  return (
    <div ref={box} className="min-w-0">
      {width > 0 && (
        <svg
          width={width}
          height={height}
          role="group"
          aria-label="The night from dusk to dawn"
          shapeRendering="geometricPrecision"
          style={{ fontFamily: "var(--font-mono)", fontSize: 11.5 }}
        >
          {shown.map((s) => (
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
          ))}
          {hours.map((t) => (
            <g key={t}>
              <line x1={x(t)} x2={x(t)} y1={PAD.top} y2={height - 6} stroke="var(--edge)" strokeWidth={0.6} />
              {Number(localTime(t, night.clock).slice(0, 2)) % named === 0 && (
                <text x={x(t)} y={PAD.top + SKY + 16} textAnchor="middle" fill="var(--muted)">
                  {localTime(t, night.clock).slice(0, 2)}
                </text>
              )}
            </g>
          ))}
          {[0, 30, 60, 90].map((a) => (
            <text key={a} x={PAD.left - 8} y={y(a) + 4} textAnchor="end" fill="var(--muted)">
              {a}°
            </text>
          ))}
          <path
            d={`${path((s) => s.limit_deg)} L${x(shown.at(-1)?.at_s ?? last)},${y(0)} L${x(shown[0]?.at_s ?? first)},${y(0)} Z`}
            fill="var(--well)"
            opacity={0.75}
          />
          <path d={path((s) => s.limit_deg)} fill="none" stroke="var(--edge-strong)" strokeDasharray="3 3" />
          <path
            d={
              line<(typeof shown)[number]>()
                .defined((s) => s.moon_deg > 0)
                .x((s) => x(s.at_s))
                .y((s) => y(s.moon_deg))(shown) ?? ""
            }
            fill="none"
            stroke="var(--c3)"
            strokeWidth={1.6}
            strokeDasharray="2 4"
            strokeLinecap="round"
          />
          <path d={path((s) => s.target_deg)} fill="none" stroke="var(--salt)" strokeWidth={2.4} />
          {night.second && (
            <path
              d={
                line<(typeof shown)[number]>()
                  .x((s) => x(s.at_s))
                  .y((s) => y(Math.max(0, s.target_deg)))(seen(night.second.view.samples)) ?? ""
              }
              fill="none"
              stroke="var(--c2)"
              strokeWidth={2}
              strokeDasharray="9 4"
            />
          )}
          {marks.map(({ t, text, left }, i) => (
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
          ))}
          <text x={width < 560 ? 8 : PAD.left} y={14}>
            <tspan fill="var(--salt)">── {night.first.target}</tspan>
            <tspan dx={width < 560 ? 12 : 26} fill="var(--c3)">
              ··· moon, {Math.round(events.moon_lit * 100)} % lit
            </tspan>
            {night.second && (
              <tspan dx={width < 560 ? 12 : 26} fill="var(--c2)">
                ─ ─ {night.second.target}
              </tspan>
            )}
          </text>
          {filters.map((name, i) => (
            <g key={`${i}${name}`}>
              <text x={PAD.left - 8} y={top(i) + 14} textAnchor="end" fill="var(--ink)">
                {name.length > 15 ? `${name.slice(0, 14)}…` : name}
              </text>
              <rect
                x={PAD.left}
                y={top(i)}
                width={width - PAD.left - PAD.right}
                height={RIBBON}
                rx={4}
                fill="var(--well)"
              />
              {shown.map((s) =>
                (s.information_per_h[i] ?? 0) > 0 ? (
                  <rect
                    key={s.at_s}
                    shapeRendering="crispEdges"
                    x={x(s.at_s) - slot / 2}
                    width={slot}
                    y={top(i)}
                    height={RIBBON}
                    fill={hue(quantityOf(i))}
                    opacity={0.12 + 0.8 * ((s.information_per_h[i] ?? 0) / (most[i] ?? 1)) ** 1.5}
                  />
                ) : null,
              )}
            </g>
          ))}
          {rows.map(({ whose, of, top: y0, edge: rim }) => (
            <g key={whose}>
              <text x={PAD.left - 8} y={y0 + 26} textAnchor="end" fill="var(--ink)">
                {night.second ? (of.target.length > 14 ? `${of.target.slice(0, 13)}…` : of.target) : "plan"}
              </text>
              {of.plan.blocks.map((b, i) => {
                const { from, to } = at(whose, i, b);
                const w = Math.max(4, x(to) - x(from));
                const isLocked =
                  b.locked || locked[whose].some((l) => l.exposure === b.exposure && Math.abs(l.from_s - b.from_s) < 1);
                const id = blockId(whose, i);
                return (
                  // The block is a slider of time: arrows move it, Shift and arrows change its length, Enter locks it.
                  <g
                    key={id}
                    role="button"
                    tabIndex={0}
                    aria-pressed={isLocked}
                    aria-label={`${night.second ? `${of.target}, ` : ""}${b.filter}, ${localTime(b.from_s, night.clock)} to ${localTime(b.to_s, night.clock)}, ${many(b.subs)}${isLocked ? ", locked" : ""}. Arrows move it, Enter locks it.`}
                    data-testid={id}
                    onFocus={() => hold(whose, i)}
                    onKeyDown={(e) => key(e, whose, i, b)}
                    onPointerDown={(e) => grab(e, whose, i, b, "both")}
                    onPointerMove={(e) => move(e, b)}
                    onPointerUp={() => drop(b)}
                    onDoubleClick={() => toggle(whose, b)}
                    style={{ cursor: "grab", touchAction: "none" }}
                  >
                    <rect
                      x={x(from)}
                      y={y0}
                      width={w}
                      height={BLOCK}
                      rx={7}
                      fill={hue(of.plan.totals[b.exposure]?.quantity ?? "continuum")}
                      opacity={dragged(whose, i) ? 0.6 : 1}
                      stroke={isLocked ? "var(--decide)" : rim}
                      strokeWidth={isLocked ? 2.5 : 1.5}
                    />
                    {w > 60 && (
                      <>
                        <text x={x(from) + 8} y={y0 + 18} fill="var(--ground)" fontWeight={700}>
                          {b.filter.length > w / 8 ? `${b.filter.slice(0, Math.floor(w / 8) - 1)}…` : b.filter}
                        </text>
                        <text x={x(from) + 8} y={y0 + 34} fill="var(--ground)">
                          {dragged(whose, i)
                            ? `${localTime(from, night.clock)}–${localTime(to, night.clock)}`
                            : w < 88
                              ? many(b.subs)
                              : `${b.subs} × ${b.sub_s} s${isLocked && w > 150 ? " · locked" : ""}`}
                        </text>
                      </>
                    )}
                    {b.flip_s != null && (
                      <line
                        x1={x(b.flip_s)}
                        x2={x(b.flip_s)}
                        y1={y0}
                        y2={y0 + BLOCK}
                        stroke="var(--ground)"
                        strokeDasharray="2 2"
                      />
                    )}
                    {(["from", "to"] as const).map((edge) => (
                      <rect
                        key={edge}
                        x={(edge === "from" ? x(from) : x(to)) - 4}
                        y={y0}
                        width={8}
                        height={BLOCK}
                        fill="transparent"
                        style={{ cursor: "ew-resize" }}
                        data-testid={`${id}-${edge}`}
                        onPointerDown={(e) => grab(e, whose, i, b, edge)}
                        onPointerMove={(e) => move(e, b)}
                        onPointerUp={() => drop(b)}
                      />
                    ))}
                  </g>
                );
              })}
            </g>
          ))}
        </svg>
      )}
    </div>
  );
});
