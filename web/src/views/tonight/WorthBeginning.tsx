import { Link } from "react-router";
import type { TonightAnswer, WorthTonight } from "@/api/client";
import { clock, percent } from "@/parts/format";
import { Words } from "@/parts/Words";
import { CompareTarget } from "./CompareTarget";

const brings = (t: WorthTonight) =>
  t.share == null
    ? "brightness unknown"
    : t.share < 1
      ? `brings ${percent(t.share)}`
      : `goal in ${clock(t.time_to_goal_s)}`;

/** What else is up and worth beginning, through which filter. */
export function WorthBeginning({ answer }: { answer: TonightAnswer }) {
  return (
    <section aria-label="Worth beginning" className="rounded-xl bg-surface px-4 py-3">
      <div className="mb-1 flex items-baseline justify-between gap-3">
        <h2 className="text-[1.05rem] font-medium">Worth beginning</h2>
        <Link to="/targets?list=tonight" className="text-[0.9rem] text-salt underline underline-offset-4">
          all of it
        </Link>
      </div>
      {answer.targets.length === 0 && (
        <p className="text-[0.93rem] text-muted">
          {answer.rig ? "Nothing that this rig serves is up in the dark." : "A rig says what is worth beginning."}
        </p>
      )}
      <ol className="flex max-h-72 flex-col overflow-y-auto" aria-label="Targets, best first" tabIndex={0}>
        {answer.targets.map((t) => (
          <li key={t.name} className="flex items-center gap-2">
            <Link
              to={`/targets?object=${encodeURIComponent(t.name)}`}
              title={t.why}
              className="min-w-0 grow rounded px-1 py-0.5 hover:bg-raised"
            >
              <span className="flex justify-between gap-2">
                <span className="min-w-0 truncate">
                  {t.name} {t.other_name && <span className="text-muted">{t.other_name}</span>}
                </span>
                <span className="num shrink-0 text-[0.86rem] text-amber">{brings(t)}</span>
              </span>
              <span className="block truncate text-[0.84rem] text-muted">
                <Words text={answer.filters[t.exposure] ?? "no filter"} /> · {t.hours.toFixed(1)} h up ·{" "}
                {t.highest_deg.toFixed(0)}° high · moon {t.moon_distance_deg.toFixed(0)}° off
              </span>
            </Link>
            <CompareTarget quiet name={t.name} date={answer.date} />
          </li>
        ))}
      </ol>
    </section>
  );
}
