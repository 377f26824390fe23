import type { SubDecision } from "@/api/client";
import { spread } from "@/charts/spread";
import { SCHOOL_LABELS } from "./schools";
import { PAD, type Sheet } from "./subSheet";

type Props = { sub: SubDecision; sheet: Sheet; school: string };

/** Every school's length over the picture, the chosen one lit. */
export function SubCriteriaMarks({ sub, sheet: { width, x, clampX, inside }, school }: Props) {
  const marks = sub.criteria.filter((c) => inside(c.sub_s)).sort((a, b) => (a.sub_s ?? 0) - (b.sub_s ?? 0));
  // Where the names of all schools would overlap, the chosen one is named; the table beneath names them all.
  const narrow = width < 460;
  const labels = spread(
    marks.map((c) => x(c.sub_s ?? 1)),
    Math.min(92, (width - PAD.left - PAD.right) / Math.max(1, marks.length)),
    [PAD.left + 30, width - PAD.right - 40],
  );
  return (
    <>
      {marks.map((c, i) => (
        <path
          key={c.school}
          d={`M${labels[i]},${i % 2 ? 16 : 30} L${x(c.sub_s ?? 1)},${PAD.top - 4} L${x(c.sub_s ?? 1)},${PAD.top + 6}`}
          fill="none"
          stroke={c.school === school ? "var(--amber)" : "var(--edge-strong)"}
        />
      ))}
      {marks
        .filter((c) => c.school === school && c.sub_range_s)
        .map((c) => (
          <line
            key={c.school}
            x1={clampX(c.sub_range_s?.low ?? 1)}
            x2={clampX(c.sub_range_s?.high ?? 1)}
            y1={PAD.top + 2}
            y2={PAD.top + 2}
            stroke="var(--amber)"
            strokeWidth={4}
            opacity={0.55}
          />
        ))}
      {marks.map((c, i) => (
        <text
          key={c.school}
          x={labels[i]}
          y={i % 2 ? 12 : 26}
          textAnchor="middle"
          fill={c.school === school ? "var(--amber)" : "var(--muted)"}
          stroke="var(--surface)"
          strokeWidth={5}
          paintOrder="stroke"
          strokeLinejoin="round"
          style={{ fontSize: 10.5 }}
        >
          {narrow && c.school !== school ? "" : SCHOOL_LABELS[c.school]}
        </text>
      ))}
    </>
  );
}
