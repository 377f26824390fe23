import type { NowAnswer } from "@/api/log";
import { fixed } from "@/parts/format";

/** Filter by filter what came against what was planned until now, and how fast it goes. */
export function Progress({ answer }: { answer: NowAnswer }) {
  const filters = answer.filters.filter((f) => f.planned > 0 || f.taken > 0);
  return (
    <section aria-label="What came" className="rounded-xl bg-surface px-4 py-3">
      <h2 className="text-[1.02rem] font-medium">What came</h2>
      {filters.length === 0 && <p className="text-muted">Nothing yet, and nothing is planned.</p>}
      <ul className="mt-1 flex flex-col gap-2.5" data-testid="now-filters">
        {filters.map((f) => (
          <li key={f.filter}>
            <div className="flex justify-between gap-3">
              <b className="font-semibold">{f.filter}</b>
              <span className="num">
                {f.kept} kept of {f.taken}
                {f.planned > 0 && <span className="text-muted"> · {Math.round(f.planned)} planned</span>}
              </span>
            </div>
            {f.planned > 0 && (
              <div className="relative mt-1 h-2 overflow-hidden rounded-full bg-well" aria-hidden>
                <div
                  className="absolute inset-y-0 left-0 bg-raised"
                  style={{ width: `${Math.min(100, (100 * f.planned_by_now) / f.planned)}%` }}
                />
                <div
                  className="absolute inset-y-0 left-0 rounded-full bg-salt"
                  style={{ width: `${Math.min(100, (100 * f.kept) / f.planned)}%` }}
                />
              </div>
            )}
            <p className="text-[0.88rem] text-muted">
              {f.planned > 0 && `${Math.round(f.planned_by_now)} should be done by now`}
              {f.pace != null &&
                `${f.planned > 0 ? "; " : ""}a kept minute is worth ${fixed(60 * f.pace, 0)} s of the planned sky`}
            </p>
          </li>
        ))}
      </ul>
    </section>
  );
}
