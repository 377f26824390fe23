import type { BenchAnswer, Quantity } from "@/api/client";
import { ChartFrame } from "@/charts/ChartFrame";
import { snr } from "@/parts/format";
import { useQuantityName } from "@/parts/quantityName";
import { contenderMark } from "@/theme/marks";

import { TimePicture } from "./TimePicture";

type Props = {
  answer: BenchAnswer;
  quantity: Quantity;
  totalS: number;
  goal: number;
  selected: number;
  hidden?: ReadonlySet<number>;
  plain?: boolean;
  /** Of the drawing, px. */
  height?: number;
};

/** Signal to noise against clock time: when does each path reach the goal? */
export function TimeChart({ answer, quantity, totalS, goal, selected, hidden, plain, height }: Props) {
  const nameOf = useQuantityName();
  const chart = answer.curves.find((c) => c.quantity === quantity);
  const times = chart?.clock_s ?? [];
  const curves = chart?.snr.filter((c) => !hidden?.has(c.contender)) ?? [];
  const label = nameOf(quantity);
  const twin = {
    columns: [
      "Clock time (h)",
      ...curves.flatMap((c) => ["", " low", " high"].map((end) => `SNR ${contenderMark(c.contender).letter}${end}`)),
    ],
    rows: times.map((t, i) => [
      (t / 3600).toFixed(2),
      ...curves.flatMap((c) => [1, ...c.range_factors].map((f) => snr((c.snr[i] ?? 0) * f))),
    ]),
  };
  return (
    <ChartFrame
      title={plain ? `${label}: signal to noise against clock time` : "Signal to noise against clock time"}
      question={plain ? "" : `When is the ${label} of each path good enough?`}
      twin={twin}
      plain={plain}
      height={height ?? 188}
    >
      {(width, height) => <TimePicture {...{ width, height, label, times, curves, totalS, goal, selected }} />}
    </ChartFrame>
  );
}
