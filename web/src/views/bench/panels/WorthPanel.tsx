import { scaleLinear } from "d3-scale";
import { useState } from "react";
import type { Decisions, Influence, Quantity, Scenario } from "@/api/client";
import { Axes } from "@/charts/Axes";
import { ChartFrame } from "@/charts/ChartFrame";
import { levels } from "@/charts/spread";
import { choose } from "@/parts/choices";
import { NumberField } from "@/parts/controls/NumberField";
import { Select } from "@/parts/controls/Select";
import { clock, ends } from "@/parts/format";
import { Words } from "@/parts/Words";
import { contenderMark, QUANTITY_LABELS } from "@/theme/marks";

type Props = {
  scenario: Scenario;
  decisions: Decisions | undefined;
  contender: number;
  letter: string;
  /** The quantity that the bench is judged by. */
  quantity: Quantity;
  change: (edit: (draft: Scenario) => void) => void;
};

const PAD = { left: 66, right: 30, top: 16, bottom: 34 };

/** What a purchase is worth here, and what moves or turns the verdict. */
export function WorthPanel({ scenario, decisions, contender, letter, quantity, change }: Props) {
  const [all, setAll] = useState(false);
  const shown = decisions?.paths[0]?.worth.find((w) => w.quantity === (all ? null : quantity)) ?? null;
  // Every row answers by the same quantity, or by all that the baseline is for.
  const values =
    decisions?.paths.flatMap((p) => p.worth.find((w) => w.quantity === (shown?.quantity ?? null)) ?? []) ?? [];
  const wanted =
    decisions?.paths[0]?.time.parts.flatMap((p) => p.served.filter((v) => v.wanted).map((v) => v.quantity)) ?? [];
  const label = shown?.quantity
    ? QUANTITY_LABELS[shown.quantity]
    : [...new Set(wanted)].map((q) => QUANTITY_LABELS[q]).join(" and ");
  const path = decisions?.paths[contender];
  const slowest = path?.influences.find((f) => wanted.includes(f.quantity))?.quantity;
  const by = path?.influences.some((f) => f.quantity === quantity) ? quantity : slowest;
  const influences = path?.influences.filter((f) => f.quantity === by) ?? [];
  const c = scenario.choices;
  const twin = {
    columns: [
      "Path",
      "Price",
      "Extra price",
      "Judged by",
      "Time over A's",
      "Saved in a year (h)",
      "Saved in a year, low (h)",
      "Saved in a year, high (h)",
      "Price per hour saved",
      "Pictures a year",
    ],
    rows: values.map((v, i) => [
      contenderMark(i).letter,
      v.price ?? "",
      v.extra_price ?? "",
      v.quantity ? QUANTITY_LABELS[v.quantity] : label,
      v.time_ratio?.toFixed(2) ?? "",
      v.hours_saved_per_year?.toFixed(0) ?? "",
      v.hours_saved_range?.low.toFixed(0) ?? "",
      v.hours_saved_range?.high.toFixed(0) ?? "",
      v.price_per_hour_saved?.toFixed(1) ?? "",
      v.pictures_per_year?.toFixed(1) ?? "",
    ]),
  };
  const points = values.flatMap((v, i) =>
    v.extra_price != null && v.hours_saved_per_year != null
      ? [{ i, price: v.extra_price, hours: v.hours_saved_per_year, range: v.hours_saved_range, equal: v.about_equal }]
      : [],
  );
  return (
    <ChartFrame
      title="Worth"
      question={`Against ${contenderMark(0).letter}, in a year of ${c?.clear_nights_per_year ?? 40} nights of ${c?.hours_per_night ?? 5} h: which path saves hours for the same ${label}?`}
      twin={twin}
      height={190}
      side={
        <div className="w-44">
          <Select
            hideLabel
            label="Judged by"
            value={all ? "all" : "one"}
            options={[
              { value: "one", label: QUANTITY_LABELS[quantity] },
              { value: "all", label: `All that ${contenderMark(0).letter} is for` },
            ]}
            onChange={(v) => setAll(v === "all")}
            testId="worth-by"
          />
        </div>
      }
      below={
        decisions && (
          <div className="mt-1 grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-x-6 gap-y-2 max-md:grid-cols-1">
            <div>
              <h3 className="text-[0.9rem] text-muted">In a year</h3>
              <ul className="flex flex-col gap-0.5 text-[0.93rem]" data-testid="worth">
                {values.map((v, i) => (
                  <li key={contenderMark(i).letter}>
                    <b style={{ color: contenderMark(i).colour }}>{contenderMark(i).letter}</b>{" "}
                    <Words text={`${v.text}.`} />
                  </li>
                ))}
              </ul>
              <div className="mt-2 flex gap-3">
                <div className="w-36">
                  <NumberField
                    label="Clear nights a year"
                    value={c?.clear_nights_per_year ?? 40}
                    min={1}
                    max={366}
                    onChange={(v) => change((s) => choose(s, { clear_nights_per_year: v }))}
                    testId="clear-nights"
                  />
                </div>
                <div className="w-36">
                  <NumberField
                    label="Exposure a night"
                    unit="h"
                    value={c?.hours_per_night ?? 5}
                    min={0.1}
                    max={24}
                    onChange={(v) => change((s) => choose(s, { hours_per_night: v }))}
                  />
                </div>
              </div>
            </div>
            <div>
              <h3 className="text-[0.9rem] text-muted">
                What moves path {letter} most{by && <Words text={`, in ${QUANTITY_LABELS[by]}`} />}
              </h3>
              <ul className="flex flex-col gap-0.5 text-[0.93rem]">
                {influences.slice(0, 5).map((f) => (
                  <InfluenceRow key={f.input} influence={f} />
                ))}
              </ul>
              <h3 className="mt-2 text-[0.9rem] text-muted">What would turn the verdict</h3>
              <ul className="flex flex-col gap-0.5 text-[0.93rem]" data-testid="flips">
                {decisions.flips.length === 0 && (
                  <li>Nothing within reach: the order stands for any sky and any brightness.</li>
                )}
                {decisions.flips.slice(0, 4).map((f) => (
                  <li key={f.text}>
                    <Words text={f.text} />
                  </li>
                ))}
              </ul>
            </div>
            <p className="col-span-full text-[0.86rem] text-muted">Ranges: {decisions.uncertainty}</p>
          </div>
        )
      }
    >
      {(width, height) => {
        if (!decisions) return <div style={{ height }} />;
        if (points.length < 2)
          return (
            <p className="grid place-items-center text-muted" style={{ height }}>
              Give the rigs prices (under the telescope of each path) to see hours against money.
            </p>
          );
        const prices = points.map((p) => p.price);
        const hours = points.flatMap((p) => [p.hours, p.range?.high ?? p.hours]);
        // A path that costs years would flatten all others: it stands at the floor with an arrow.
        const floor = -Math.max((c?.clear_nights_per_year ?? 40) * (c?.hours_per_night ?? 5), ...hours, 20);
        const x = scaleLinear([Math.min(0, ...prices), Math.max(100, ...prices)], [PAD.left, width - PAD.right]).nice();
        const y = scaleLinear(
          [Math.max(floor, Math.min(0, ...hours)), Math.max(20, ...hours)],
          [height - PAD.bottom, PAD.top],
        ).nice();
        const low = y.domain()[0] ?? 0;
        const words = (p: (typeof points)[number]) =>
          p.i === 0
            ? "baseline"
            : p.equal
              ? "about equal"
              : `${p.hours >= 0 ? "saves" : "costs"} ${clock(Math.abs(p.hours) * 3600)}${p.hours < low ? " ↓" : ""}`;
        const spots = points.map((p) => {
          const at = { x: x(p.price), y: y(Math.max(low, p.hours)), text: words(p) };
          return { ...at, left: at.x > width - 170 };
        });
        // A point with its word, as a stretch of its row: where two meet, one word is lifted over the other.
        const stretch = (spot: (typeof spots)[number]): [number, number] => {
          const reach = 18 + 7 * spot.text.length;
          return spot.left ? [spot.x - reach, spot.x + 9] : [spot.x - 9, spot.x + reach];
        };
        const row = (spot: (typeof spots)[number]) => Math.round(spot.y / 18);
        const lifts = spots.map((spot, i) => {
          const same = spots.flatMap((other, j) => (row(other) === row(spot) ? [j] : []));
          return levels(same.map((j) => stretch(spots[j] ?? spot)))[same.indexOf(i)] ?? 0;
        });
        return (
          <svg
            width={width}
            height={height}
            role="img"
            aria-label="Hours saved a year against extra price"
            style={{ fontFamily: "var(--font-mono)", fontSize: 11.5 }}
          >
            <Axes
              box={[PAD.left, PAD.top, width - PAD.right, height - PAD.bottom]}
              x={{ scale: x, ticks: x.ticks(6), label: "extra price over A" }}
              y={{
                scale: y,
                ticks: y.ticks(4),
                text: (t) => `${Math.abs(t) >= 10000 ? `${(t / 1000).toFixed(0)}k` : t} h`,
              }}
            />
            <line x1={PAD.left} x2={width - PAD.right} y1={y(0)} y2={y(0)} stroke="var(--edge-strong)" />
            {points.map((p, i) => {
              const { letter: l, colour } = contenderMark(p.i);
              const spot = spots[i];
              if (!spot) return null;
              return (
                <g key={l}>
                  {p.range && (
                    <line
                      data-testid="worth-range"
                      x1={x(p.price)}
                      x2={x(p.price)}
                      y1={y(Math.max(low, p.range.low))}
                      y2={y(Math.max(low, p.range.high))}
                      stroke={colour}
                      strokeWidth={4}
                      strokeLinecap="round"
                      opacity={0.5}
                    />
                  )}
                  <circle cx={spot.x} cy={spot.y} r={9} fill={colour} />
                  <text x={spot.x} y={spot.y + 4} textAnchor="middle" fill="var(--ground)" fontWeight={700}>
                    {l}
                  </text>
                  <text
                    x={spot.x + (spot.left ? -14 : 14)}
                    textAnchor={spot.left ? "end" : "start"}
                    y={spot.y - 8 - 15 * (lifts[i] ?? 0)}
                    fill="var(--ink)"
                  >
                    {spot.text}
                  </text>
                </g>
              );
            })}
          </svg>
        );
      }}
    </ChartFrame>
  );
}

/** How far a ratio of times lies from the middle of its bar, in per cent: a factor of three reaches the end. */
const fromMiddle = (ratio: number) => 50 + Math.max(-50, Math.min(50, Math.log2(ratio) * 33));

function InfluenceRow({ influence: { input, time_ratio: ratio, time_ratio_range: range } }: { influence: Influence }) {
  const [at, low, high] = [ratio, range.low, range.high].map(fromMiddle) as [number, number, number];
  // A range that two figures cannot tell apart is left to the bar.
  const said = ends(range, (x) => x.toFixed(1));
  return (
    <li className="flex items-center gap-2">
      <span className="min-w-0 grow truncate">
        <Words text={input} />
      </span>
      <span aria-hidden className="relative h-2 w-24 shrink-0 rounded-full bg-well">
        <span
          className="absolute h-full rounded-full"
          style={{
            background: ratio > 1 ? "var(--danger)" : "var(--c2)",
            left: `${Math.min(50, at)}%`,
            width: `${Math.abs(at - 50)}%`,
          }}
        />
        <span
          data-testid="influence-range"
          className="absolute top-1/2 h-px bg-ink"
          style={{ left: `${low}%`, width: `${Math.max(0, high - low)}%` }}
        />
      </span>
      <span className="num w-16 shrink-0 text-right">× {ratio.toFixed(2)}</span>
      <span className="num w-20 shrink-0 whitespace-nowrap text-muted">{said && `(${said})`}</span>
    </li>
  );
}
