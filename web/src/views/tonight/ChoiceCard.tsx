import { Link } from "react-router";
import type { TonightAnswer } from "@/api/client";
import { localTime } from "@/parts/evening";
import { clock } from "@/parts/format";
import { Words } from "@/parts/Words";
import { CompareTarget } from "./CompareTarget";

const lit =
  "inline-flex h-8 items-center rounded-md bg-salt px-2.5 text-[0.93rem] font-semibold text-on-salt hover:brightness-110";

/** The one answer: what to do tonight, why, and what something else would cost. */
export function ChoiceCard({ answer }: { answer: TonightAnswer }) {
  const { choice, campaigns, targets, events, clock: offsets, date } = answer;
  const campaign = choice.kind === "campaign" ? campaigns[choice.index] : undefined;
  const target = choice.kind === "target" ? targets[choice.index] : undefined;
  return (
    <section
      aria-label="What to do tonight"
      data-testid="tonight-choice"
      className="grid grid-cols-[minmax(0,1fr)_19rem] gap-6 rounded-xl bg-surface px-5 py-4 shadow-[inset_3px_0_0_var(--salt)] max-md:grid-cols-1"
    >
      <div className="min-w-0">
        <h2 className="text-[1.45rem] leading-8 font-semibold text-decide">{choice.title}</h2>
        <p className="mt-1 text-[1.02rem] leading-6">
          <Words text={choice.words} />
        </p>
        {choice.instead && (
          <p className="mt-1.5 text-[0.93rem] text-muted">
            <Words text={choice.instead} />
          </p>
        )}
        <div className="mt-3 flex flex-wrap gap-2">
          {campaign && (
            <Link to={`/night?campaign=${campaign.id}&date=${date}`} className={lit}>
              Open its night
            </Link>
          )}
          {target && (
            <>
              <CompareTarget name={target.name} date={date} />
              <CompareTarget night name={target.name} date={date} />
              <Link
                to={`/targets?object=${encodeURIComponent(target.name)}`}
                className="inline-flex h-8 items-center rounded-md border border-edge bg-raised px-2.5 text-[0.93rem] hover:bg-edge"
              >
                See {target.name}
              </Link>
            </>
          )}
        </div>
      </div>
      {events && (
        <dl className="grid grid-cols-[auto_1fr] content-start gap-x-3 gap-y-0.5 text-[0.93rem]">
          <dt className="text-muted">Dark</dt>
          <dd className="num">
            {events.dark_h > 0
              ? `${localTime(events.dusk_s, offsets)}–${localTime(events.dawn_s, offsets)}, ${clock(events.dark_h * 3600)}`
              : "not at all"}
          </dd>
          <dt className="text-muted">Moon</dt>
          <dd className="num">
            {Math.round(events.moon_lit * 100)} % lit
            {events.moonrise_s != null && `, rises ${localTime(events.moonrise_s, offsets)}`}
            {events.moonset_s != null && `, sets ${localTime(events.moonset_s, offsets)}`}
          </dd>
          {answer.last_night && (
            <>
              <dt className="text-muted">Last</dt>
              <dd>
                <span className="num">{answer.last_night.date}</span>: {answer.last_night.words}
              </dd>
            </>
          )}
        </dl>
      )}
    </section>
  );
}
