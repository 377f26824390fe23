import { scaleLinear, scaleLog } from "d3-scale";
import type { SubDecision } from "@/api/client";
import { Axes } from "@/charts/Axes";
import { apart } from "@/charts/spread";
import { SubCriteriaMarks } from "./SubCriteriaMarks";
import { SubHandle } from "./SubHandle";
import { SubCurves, SubLimits, SubPlateau } from "./SubLayers";
import { PAD, type Sheet } from "./subSheet";

const TICKS_S = [1, 3, 10, 30, 60, 120, 300, 600, 1200, 3600];

type Props = {
  sub: SubDecision;
  width: number;
  height: number;
  school: string;
  letter: string;
  yours: number;
  setSub: (t: number) => void;
};

/** Information per hour against the length of a sub. */
export function SubPicture({ sub, width, height, school, letter, yours, setSub }: Props) {
  const [from, to] = [sub.chart_s[0] ?? 1, sub.chart_s.at(-1) ?? 3600];
  const x = scaleLog([from, to], [PAD.left, width - PAD.right]);
  const y = scaleLinear([0, 1.02], [height - PAD.bottom, PAD.top]);
  const inside = (t: number | null | undefined) => t != null && t >= from && t <= to;
  const clampX = (t: number) => x(Math.min(to, Math.max(from, t)));
  const sheet: Sheet = { width, height, from, to, x, y, clampX, inside, invert: (px) => x.invert(px) };
  return (
    <svg
      width={width}
      height={height}
      aria-label="Information per hour against the length of a sub"
      role="group"
      style={{ fontFamily: "var(--font-mono)", fontSize: 11.5 }}
    >
      <SubPlateau sub={sub} sheet={sheet} />
      <Axes
        box={[PAD.left, PAD.top, width - PAD.right, height - PAD.bottom]}
        x={{
          scale: x,
          ticks: apart(
            TICKS_S.filter((t) => inside(t) && x(t) < width - PAD.right - 12),
            x,
            38,
          ),
          text: (t) => `${t} s`,
        }}
        y={{ scale: y, ticks: [0, 0.5, 0.95], text: (v) => `${v * 100} %`, grid: true }}
      />
      <SubLimits sub={sub} sheet={sheet} />
      <SubCurves sub={sub} sheet={sheet} />
      <SubCriteriaMarks sub={sub} sheet={sheet} school={school} />
      <SubHandle {...{ sheet, letter, yours, setSub }} />
    </svg>
  );
}
