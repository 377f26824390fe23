import type { BenchAnswer, Quantity } from "@/api/client";
import { ChartFrame } from "@/charts/ChartFrame";
import { Choice } from "@/parts/controls/Choice";
import { arcsec, snr } from "@/parts/format";
import { useQuantityName } from "@/parts/quantityName";
import { contenderMark } from "@/theme/marks";
import { TimePicture } from "./TimePicture";

export type TimeBy = "clean" | "snr";

type Props = {
  answer: BenchAnswer;
  quantity: Quantity;
  totalS: number;
  /** What is drawn against the clock, and how that is chosen. */
  by: TimeBy;
  setBy?: (by: TimeBy) => void;
  selected: number;
  hidden?: ReadonlySet<number>;
  plain?: boolean;
  /** Of the drawing, px. */
  height?: number;
};

/** Clean detail, or signal to noise, against clock time: when does each path reach the goal? */
export function TimeChart({ answer, quantity, totalS, by, setBy, selected, hidden, plain, height }: Props) {
  const nameOf = useQuantityName();
  const chart = answer.curves.find((c) => c.quantity === quantity);
  const judged = answer.judged.find((j) => j.quantity === quantity);
  const times = chart?.clock_s ?? [];
  const drawn = chart?.snr.filter((c) => !hidden?.has(c.contender)) ?? [];
  const label = nameOf(quantity);
  const clean = by === "clean";
  const curves = drawn.map((c) => ({
    contender: c.contender,
    values: clean ? c.clean_arcsec : c.snr,
    factors: clean ? c.clean_range_factors : c.range_factors,
  }));
  const twin = {
    columns: [
      "Clock time (h)",
      ...drawn.flatMap((c) => {
        const { letter } = contenderMark(c.contender);
        return [`Clean ${letter} (arcsec)`, ...["", " low", " high"].map((end) => `SNR ${letter}${end}`)];
      }),
    ],
    rows: times.map((t, i) => [
      (t / 3600).toFixed(2),
      ...drawn.flatMap((c) => [
        c.clean_arcsec[i]?.toFixed(2) ?? "",
        ...[1, ...c.range_factors].map((f) => snr((c.snr[i] ?? 0) * f)),
      ]),
    ]),
  };
  const title = clean ? "Clean detail against clock time" : "Signal to noise against clock time";
  return (
    <ChartFrame
      title={plain ? `${label}: ${title.toLowerCase()}` : title}
      question={plain ? "" : `When is the ${label} of each path good enough?`}
      twin={twin}
      plain={plain}
      height={height ?? 188}
      side={
        setBy && (
          <Choice
            label="Drawn against the clock"
            value={by}
            onChange={setBy}
            className="flex rounded-2xl bg-well p-0.5"
            options={[
              { value: "clean", label: "Clean detail" },
              { value: "snr", label: "SNR" },
            ]}
          />
        )
      }
    >
      {(width, height) => (
        <TimePicture
          {...{ width, height, times, curves, totalS, selected }}
          goal={clean ? judged?.goal.detail_arcsec : judged?.goal_mean_snr}
          aria={`${clean ? "Clean detail" : "Signal to noise"} of ${label} against clock time for ${curves.length} paths`}
          axis={clean ? "clean at" : "SNR"}
          finer={clean}
          show={clean ? arcsec : snr}
        />
      )}
    </ChartFrame>
  );
}
