import type { BenchAnswer, Decisions, Quantity, Scenario } from "@/api/client";
import { ChartFrame } from "@/charts/ChartFrame";
import { useQuantityName } from "@/parts/quantityName";
import { usual } from "@/parts/range";
import { contenderMark } from "@/theme/marks";
import { Places } from "./Places";
import { type Point, WorthPicture } from "./WorthPicture";
import { WorthWords } from "./WorthWords";

type Props = {
  scenario: Scenario;
  decisions: Decisions | undefined;
  contender: number;
  letter: string;
  answer: BenchAnswer;
  /** The quantity that the bench is judged by; null for all that the first path is for. */
  by: Quantity | null;
  change: (edit: (draft: Scenario) => void) => void;
};

/** What a purchase is worth here, and what moves or turns the verdict. */
export function WorthPanel({ scenario, decisions, answer, contender, letter, by, change }: Props) {
  const nameOf = useQuantityName();
  // Every row, every flip and what moves them answer by the one thing that the bench is judged by.
  const values = decisions?.paths.flatMap((p) => p.worth.find((w) => (w.quantity ?? null) === by) ?? []) ?? [];
  const label = by ? nameOf(by) : (answer.rows[0]?.together.label ?? "");
  const own = decisions?.paths[contender]?.influences ?? [];
  const influences = own.filter((f) => (f.quantity ?? null) === by);
  const flips = decisions?.flips.filter((f) => (f.quantity ?? null) === by) ?? [];
  const nights = scenario.choices?.clear_nights_per_year ?? usual("Choices", "clear_nights_per_year");
  const hours = scenario.choices?.hours_per_night ?? usual("Choices", "hours_per_night");
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
      v.quantity ? nameOf(v.quantity) : label,
      v.time_ratio?.toFixed(2) ?? "",
      v.hours_saved_per_year?.toFixed(0) ?? "",
      v.hours_saved_range?.low.toFixed(0) ?? "",
      v.hours_saved_range?.high.toFixed(0) ?? "",
      v.price_per_hour_saved?.toFixed(1) ?? "",
      v.pictures_per_year?.toFixed(1) ?? "",
    ]),
  };
  // Where nothing is left to be bought, what it once cost spreads the paths.
  const owned = values.length > 0 && values.every((v) => v.extra_price != null && Math.abs(v.extra_price) < 0.5);
  const priceOf = (v: (typeof values)[number]) =>
    owned && v.price != null && values[0]?.price != null ? v.price - values[0].price : v.extra_price;
  const points: Point[] = values.flatMap((v, i) =>
    v.extra_price != null && v.hours_saved_per_year != null
      ? [{ i, price: priceOf(v) ?? 0, hours: v.hours_saved_per_year, range: v.hours_saved_range, told: v.told }]
      : [],
  );
  return (
    <ChartFrame
      title="Worth"
      question={`Against ${contenderMark(0).letter}, in a year of ${nights} nights of ${hours} h: which path saves hours for the same ${label}?`}
      twin={twin}
      height={190}
      below={
        decisions && (
          <>
            <WorthWords {...{ decisions, values, nights, hours, letter, influences, flips, label, change }} />
            <Places scenario={scenario} />
          </>
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
        return (
          <WorthPicture
            {...{ width, height, points }}
            yearH={nights * hours}
            label={owned ? "price over A, all of it owned" : "still to be paid, over A"}
          />
        );
      }}
    </ChartFrame>
  );
}
