import { scaleLinear } from "d3-scale";
import type { CopyAnswer } from "@/api/log";
import { Axes } from "@/charts/Axes";
import { ChartFrame } from "@/charts/ChartFrame";
import { fixed } from "@/parts/format";

const HIGH = 190;
const [LEFT, TOP, BELOW] = [30, 8, 38];

/** How likely each place of the copy's centre is, beside its tolerance. */
export function CopyChart({ copy }: { copy: CopyAnswer["copy"] }) {
  const { likely, tolerance_nm } = copy;
  const reach = Math.max(1, 1.5 * tolerance_nm, ...likely.map(([nm]) => Math.abs(nm ?? 0)));
  const most = Math.max(...likely.map(([, d]) => d ?? 0));
  return (
    <ChartFrame
      title="Where its centre lies"
      question="In parallel light, against the promised one; the grey band is its tolerance."
      twin={{
        columns: ["nm over the promised centre", "likely, to a nm"],
        rows: likely.map(([nm, d]) => [fixed(nm ?? 0, 2), fixed(d ?? 0, 3)]),
      }}
      height={HIGH}
    >
      {(width, height) => {
        const x = scaleLinear([-reach, reach], [LEFT, width - 12]);
        const y = scaleLinear([0, most], [height - BELOW, TOP]);
        const line = likely.map(([nm, d], i) => `${i ? "L" : "M"}${x(nm ?? 0)} ${y(d ?? 0)}`).join("");
        return (
          <svg width={width} height={height} role="img" aria-label="How likely each centre is">
            <rect
              x={x(-tolerance_nm)}
              width={x(tolerance_nm) - x(-tolerance_nm)}
              y={TOP}
              height={height - BELOW - TOP}
              fill="var(--edge)"
              opacity={0.5}
            />
            <Axes
              box={[LEFT, TOP, width - 12, height - BELOW]}
              x={{ scale: x, ticks: x.ticks(7), text: (t) => (t > 0 ? `+${t}` : `${t}`), label: "nm off" }}
              y={{ scale: y, ticks: [], label: "likely" }}
            />
            <path d={line} fill="none" stroke="var(--salt)" strokeWidth={2} data-testid="copy-likely" />
          </svg>
        );
      }}
    </ChartFrame>
  );
}
