import type { SubDecision } from "@/api/client";
import { SCHOOL_LABELS } from "./schools";
import { PAD, type Sheet } from "./subSheet";

type Props = { sub: SubDecision; sheet: Sheet; school: string };

/** Room that a school's name takes at most. */
const NAME_PX = 90;

/** Every school's length as a tick over the picture, the chosen one lit and named; the table beneath names them all. */
export function SubCriteriaMarks({ sub, sheet: { width, x, clampX, inside }, school }: Props) {
  const marks = sub.criteria.filter((c) => inside(c.sub_s));
  const chosen = marks.find((c) => c.school === school);
  const at = x(chosen?.sub_s ?? 1);
  const end = at > width - PAD.right - NAME_PX;
  return (
    <>
      {marks.map((c) => (
        <line
          key={c.school}
          x1={x(c.sub_s ?? 1)}
          x2={x(c.sub_s ?? 1)}
          y1={PAD.top - (c === chosen ? 12 : 7)}
          y2={PAD.top + 4}
          stroke={c === chosen ? "var(--amber)" : "var(--muted)"}
          strokeWidth={c === chosen ? 2.5 : 1.4}
        >
          <title>{`${SCHOOL_LABELS[c.school]}: ${Math.round(c.sub_s ?? 0)} s`}</title>
        </line>
      ))}
      {chosen?.sub_range_s && (
        <line
          x1={clampX(chosen.sub_range_s.low)}
          x2={clampX(chosen.sub_range_s.high)}
          y1={PAD.top}
          y2={PAD.top}
          stroke="var(--amber)"
          strokeWidth={4}
          opacity={0.55}
        />
      )}
      {chosen && (
        <text x={at + (end ? -5 : 5)} y={PAD.top - 8} textAnchor={end ? "end" : "start"} fill="var(--amber)">
          {SCHOOL_LABELS[chosen.school]}
        </text>
      )}
    </>
  );
}
