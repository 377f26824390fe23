import type { Decisions, Influence, Scenario } from "@/api/client";
import { choose } from "@/parts/choices";
import { NumberField } from "@/parts/controls/NumberField";
import { ends, fixed } from "@/parts/format";
import { range } from "@/parts/range";
import { Words } from "@/parts/Words";
import { contenderMark } from "@/theme/marks";

type Props = {
  decisions: Decisions;
  values: Decisions["paths"][number]["worth"];
  /** Clear nights in a year, and hours of exposure in each. */
  nights: number;
  hours: number;
  letter: string;
  /** What moves the selected path, and what would turn the order of them all. */
  influences: Influence[];
  flips: Decisions["flips"];
  /** What all of it is judged by. */
  label: string;
  change: (edit: (draft: Scenario) => void) => void;
};

/** What every path is worth in words, what moves the selected one, and what would turn the verdict. */
export function WorthWords({ decisions, values, nights, hours, letter, influences, flips, label, change }: Props) {
  return (
    <div className="mt-1 grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-x-6 gap-y-2 max-md:grid-cols-1">
      <div>
        <h3 className="text-[0.9rem] text-muted">In a year</h3>
        <ul className="flex flex-col gap-0.5 text-[0.93rem]" data-testid="worth">
          {values.map((v, i) => (
            <li key={contenderMark(i).letter}>
              <b style={{ color: contenderMark(i).colour }}>{contenderMark(i).letter}</b> <Words text={`${v.text}.`} />
              {v.to_buy.length > 0 && (
                <span className="text-muted">
                  {" "}
                  To buy{v.to_buy_price == null ? "" : `, ${fixed(v.to_buy_price, 0)} in all`}: {v.to_buy.join(", ")}.
                </span>
              )}
            </li>
          ))}
        </ul>
        <div className="mt-2 flex gap-3">
          <div className="w-36">
            <NumberField
              label="Clear nights a year"
              value={nights}
              {...range("Choices", "clear_nights_per_year")}
              onChange={(v) => change((s) => choose(s, { clear_nights_per_year: v }))}
              testId="clear-nights"
            />
          </div>
          <div className="w-36">
            <NumberField
              label="Exposure a night"
              unit="h"
              value={hours}
              {...range("Choices", "hours_per_night")}
              onChange={(v) => change((s) => choose(s, { hours_per_night: v }))}
            />
          </div>
        </div>
      </div>
      <div>
        <h3 className="text-[0.9rem] text-muted">
          What moves path {letter} most
          <Words text={`, in ${label}`} />
        </h3>
        <ul className="flex flex-col gap-0.5 text-[0.93rem]">
          {influences.slice(0, 5).map((f) => (
            <InfluenceRow key={f.input} influence={f} />
          ))}
        </ul>
        <h3 className="mt-2 text-[0.9rem] text-muted">What would turn the verdict</h3>
        <ul className="flex flex-col gap-0.5 text-[0.93rem]" data-testid="flips">
          {flips.length === 0 && <li>Nothing within reach: the order stands for any sky and any brightness.</li>}
          {flips.slice(0, 4).map((f) => (
            <li key={f.text}>
              <Words text={f.text} />
            </li>
          ))}
        </ul>
      </div>
      <p className="col-span-full text-[0.86rem] text-muted">Ranges: {decisions.uncertainty}</p>
    </div>
  );
}

/** How far a ratio of times lies from the middle of its bar, in per cent: a factor of three reaches the end. */
const fromMiddle = (ratio: number) => 50 + Math.max(-50, Math.min(50, Math.log2(ratio) * 33));

function InfluenceRow({ influence: { input, time_ratio: ratio, time_ratio_range: open } }: { influence: Influence }) {
  const [at, low, high] = [ratio, open.low, open.high].map(fromMiddle) as [number, number, number];
  // A range that two figures cannot tell apart is left to the bar.
  const said = ends(open, (x) => x.toFixed(1));
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
