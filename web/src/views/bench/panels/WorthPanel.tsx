import { useState } from "react";
import type { Decisions, Quantity, Scenario } from "@/api/client";
import { ChartFrame } from "@/charts/ChartFrame";
import { Select } from "@/parts/controls/Select";
import { useQuantityName } from "@/parts/quantityName";
import { usual } from "@/parts/range";
import { contenderMark } from "@/theme/marks";
import { type Point, WorthPicture } from "./WorthPicture";
import { WorthWords } from "./WorthWords";

type Props = {
  scenario: Scenario;
  decisions: Decisions | undefined;
  contender: number;
  letter: string;
  /** The quantity that the bench is judged by. */
  quantity: Quantity;
  change: (edit: (draft: Scenario) => void) => void;
};

/** What a purchase is worth here, and what moves or turns the verdict. */
export function WorthPanel({ scenario, decisions, contender, letter, quantity, change }: Props) {
  const nameOf = useQuantityName();
  const [all, setAll] = useState(false);
  const shown = decisions?.paths[0]?.worth.find((w) => w.quantity === (all ? null : quantity)) ?? null;
  // Every row answers by the same quantity, or by all that the baseline is for.
  const values =
    decisions?.paths.flatMap((p) => p.worth.find((w) => w.quantity === (shown?.quantity ?? null)) ?? []) ?? [];
  const wanted =
    decisions?.paths[0]?.time.parts.flatMap((p) => p.served.filter((v) => v.wanted).map((v) => v.quantity)) ?? [];
  const label = shown?.quantity ? nameOf(shown.quantity) : [...new Set(wanted)].map((q) => nameOf(q)).join(" and ");
  const path = decisions?.paths[contender];
  const slowest = path?.influences.find((f) => wanted.includes(f.quantity))?.quantity;
  const by = path?.influences.some((f) => f.quantity === quantity) ? quantity : slowest;
  const influences = path?.influences.filter((f) => f.quantity === by) ?? [];
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
  const points: Point[] = values.flatMap((v, i) =>
    v.extra_price != null && v.hours_saved_per_year != null
      ? [{ i, price: v.extra_price, hours: v.hours_saved_per_year, range: v.hours_saved_range, told: v.told }]
      : [],
  );
  return (
    <ChartFrame
      title="Worth"
      question={`Against ${contenderMark(0).letter}, in a year of ${nights} nights of ${hours} h: which path saves hours for the same ${label}?`}
      twin={twin}
      height={190}
      side={
        <div className="w-44">
          <Select
            hideLabel
            label="Judged by"
            value={all ? "all" : "one"}
            options={[
              { value: "one", label: nameOf(quantity) },
              { value: "all", label: `All that ${contenderMark(0).letter} is for` },
            ]}
            onChange={(v) => setAll(v === "all")}
            testId="worth-by"
          />
        </div>
      }
      below={decisions && <WorthWords {...{ decisions, values, nights, hours, letter, influences, by, change }} />}
    >
      {(width, height) => {
        if (!decisions) return <div style={{ height }} />;
        if (points.length < 2)
          return (
            <p className="grid place-items-center text-muted" style={{ height }}>
              Give the rigs prices (under the telescope of each path) to see hours against money.
            </p>
          );
        return <WorthPicture {...{ width, height, points }} yearH={nights * hours} />;
      }}
    </ChartFrame>
  );
}
