import { useRef } from "react";
import type { SubDecision } from "@/api/client";
import { ends, percent, seconds } from "@/parts/format";
import { useWidth } from "@/parts/useWidth";
import { SCHOOL_LABELS } from "./schools";

type Criterion = SubDecision["criteria"][number];

/** Narrower than this, the names stand above their figures and the costs beneath. */
const WIDE_PX = 640;

const COLUMNS = [
  ["Sub", (c: Criterion) => (c.sub_s == null ? "–" : seconds(c.sub_s))],
  ["Range", (c: Criterion) => ends(c.sub_range_s, seconds)],
  ["Of best", (c: Criterion) => (c.information == null ? "–" : percent(c.information))],
  ["Subs", (c: Criterion) => String(c.subs)],
  ["Disk", (c: Criterion) => `${c.disk_gb.toFixed(1)} GB`],
] as const;

/** Every school's sub with what it costs. */
export function SchoolTable({ criteria, school }: { criteria: Criterion[]; school: string }) {
  const box = useRef<HTMLDivElement>(null);
  const wide = useWidth(box) >= WIDE_PX;
  const chosen = (c: Criterion) => (c.school === school ? "bg-raised" : "");
  const name = (c: Criterion) => (
    <>
      <span className="font-medium">{SCHOOL_LABELS[c.school]}</span> <span className="text-muted">{c.label}</span>
    </>
  );
  return (
    <div ref={box}>
      <table className="w-full text-[0.9rem]" aria-label="Every school side by side">
        <thead className="text-[0.82rem] text-muted">
          <tr>
            {wide && (
              <th scope="col" className="py-0.5 text-left font-normal">
                School
              </th>
            )}
            {COLUMNS.map(([label]) => (
              <th key={label} scope="col" className="pr-3 text-right font-normal min-[380px]:whitespace-nowrap">
                {label}
              </th>
            ))}
            {wide && (
              <th scope="col" className="text-left font-normal">
                What it costs
              </th>
            )}
          </tr>
        </thead>
        {criteria.map((c) => {
          const cells = COLUMNS.map(([label, of]) => (
            <td key={label} className="num py-0.5 pr-3 text-right text-[0.86rem] min-[380px]:whitespace-nowrap">
              {of(c)}
            </td>
          ));
          return wide ? (
            <tbody key={c.school}>
              <tr className={`border-t border-edge/60 ${chosen(c)}`}>
                <th scope="row" className="py-0.5 pr-3 text-left font-normal">
                  {name(c)}
                </th>
                {cells}
                <td className="text-muted">{c.cost}</td>
              </tr>
            </tbody>
          ) : (
            <tbody key={c.school} className={chosen(c)}>
              <tr className="border-t border-edge/60">
                <th scope="rowgroup" colSpan={COLUMNS.length} className="pt-1 text-left font-normal">
                  {name(c)}
                </th>
              </tr>
              <tr>{cells}</tr>
              <tr>
                <td colSpan={COLUMNS.length} className="pb-1 text-muted">
                  {c.cost}
                </td>
              </tr>
            </tbody>
          );
        })}
      </table>
    </div>
  );
}
