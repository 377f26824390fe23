import { Link } from "react-router";
import type { TonightAnswer } from "@/api/client";
import { localTime } from "@/parts/evening";
import { Words } from "@/parts/Words";

/** What the night brings to each running campaign: what is there, and what would come on top. */
export function RunningCampaigns({ answer }: { answer: TonightAnswer }) {
  return (
    <section aria-label="Campaigns" className="rounded-xl bg-surface px-4 py-3">
      <h2 className="mb-1.5 text-[1.05rem] font-medium">Running campaigns</h2>
      {answer.campaigns.length === 0 && (
        <p className="text-[0.93rem] text-muted">
          None. A campaign is begun from a light path on the bench: one target over many nights.
        </p>
      )}
      <ul className="flex flex-col gap-2.5">
        {answer.campaigns.map(({ id, title, evening }) => (
          <li key={id}>
            <div className="flex items-baseline justify-between gap-3">
              <Link to={`/campaign?id=${id}`} className="min-w-0 truncate hover:text-salt">
                {title}
              </Link>
              <span className="num shrink-0 text-[0.88rem] text-muted">
                {evening.from_s == null
                  ? "not tonight"
                  : `${localTime(evening.from_s, answer.clock)}–${localTime(evening.to_s, answer.clock)}`}
              </span>
            </div>
            <div className="relative mt-1 h-2.5 overflow-hidden rounded-full bg-well" aria-hidden>
              <span
                className="absolute inset-y-0 left-0 bg-salt opacity-45"
                style={{ width: `${evening.after * 100}%` }}
              />
              <span className="absolute inset-y-0 left-0 bg-salt" style={{ width: `${evening.before * 100}%` }} />
            </div>
            <p className="mt-0.5 text-[0.9rem] text-muted">
              <Words text={evening.words} />
            </p>
          </li>
        ))}
      </ul>
    </section>
  );
}
