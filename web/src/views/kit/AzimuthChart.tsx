import { PointsChart } from "@/charts/PointsChart";
import { Button } from "@/parts/controls/Button";
import { around, type ByAzimuth, moved, pairsText, type Values, withPoint } from "./horizon";

const COMPASS = ["N", "NE", "E", "SE", "S", "SW", "W", "NW", "N"];

type Props = {
  title: string;
  /** What it is called without points. */
  none: string;
  hint: string;
  points: ByAzimuth;
  values: Values;
  ticks: number[];
  text: (value: number) => string;
  set: (next: ByAzimuth) => void;
  testId: string;
};

/** A table by azimuth as a line around the compass, its points dragged. */
export function AzimuthChart({ title, none, hint, points, values, ticks, text, set, testId }: Props) {
  return (
    <div className="mt-2">
      <div className="flex items-center gap-2">
        <h3 className="grow font-medium">{title}</h3>
        <Button look="quiet" disabled={points.length === 0} onClick={() => set([])} data-testid={testId}>
          Clear
        </Button>
      </div>
      <PointsChart
        label={points.length > 0 ? `${title}, ${points.length} points: ${pairsText(points)}` : none}
        points={points}
        through={around(points)}
        filled
        height={150}
        move={(i, azimuth, value) => set(moved(points, i, azimuth, value, values))}
        add={(azimuth, value) => set(withPoint(points, azimuth, value, values))}
        x={{ domain: [0, 360], ticks: [0, 45, 90, 135, 180, 225, 270, 315, 360], text: (t) => COMPASS[t / 45] ?? "" }}
        y={{ domain: [0, ticks.at(-1) ?? values.top], ticks, text }}
      />
      <p className="text-[0.86rem] text-muted">{hint}</p>
    </div>
  );
}
