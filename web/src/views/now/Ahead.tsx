import { RefreshCw } from "lucide-react";
import { Link } from "react-router";
import { answerOf, api } from "@/api/client";
import { type NowAnswer, usePutNightsBack, useReplan } from "@/api/log";
import { Button } from "@/parts/controls/Button";
import { localTime } from "@/parts/evening";
import { fail } from "@/parts/fail";
import { useOfferUndo } from "@/parts/useOfferUndo";
import { until } from "./until";

type Props = { answer: NowAnswer; clock: number; at: number | null };

/** What should be exposing, the next act with its countdown, and the acts after it. */
export function Ahead({ answer, clock, at }: Props) {
  const [next, ...later] = answer.ahead.filter((a) => a.at_s > clock - 60);
  const { running } = answer;
  const runs = running && running.to_s > clock ? running : null;
  return (
    <section aria-label="What runs and what comes" className="rounded-xl bg-surface px-4 py-3">
      <div className="flex flex-wrap items-start gap-x-8 gap-y-3">
        <div className="min-w-56">
          <p className="text-muted">Should be exposing</p>
          <p className="text-[1.7rem] leading-tight text-salt" data-testid="running">
            {runs ? runs.filter : "nothing"}
          </p>
          {runs && (
            <p className="num text-muted">
              until {localTime(runs.to_s, answer.clock)}, {runs.subs} subs
            </p>
          )}
          {!answer.is_planned && (
            <p className="text-muted">
              Tonight is not planned.{" "}
              {answer.campaign && (
                <Link className="underline" to={`/night?campaign=${answer.campaign.id}&date=${answer.evening}`}>
                  Plan it
                </Link>
              )}
            </p>
          )}
        </div>
        {next && (
          <div className="min-w-56">
            <p className="text-muted">Next, at {localTime(next.at_s, answer.clock)}</p>
            <p className="text-[1.7rem] leading-tight" data-testid="next-act">
              {next.text}
            </p>
            <p className="num text-[1.3rem] text-amber" data-testid="countdown">
              {next.at_s - clock < 1 ? "now" : `in ${until(next.at_s - clock)}`}
            </p>
          </div>
        )}
        <Replan answer={answer} at={at} />
      </div>
      {later.length > 0 && (
        <ul className="mt-3 flex flex-wrap gap-x-6 gap-y-1 text-muted" aria-label="After that">
          {later.slice(0, 5).map((a) => (
            <li key={`${a.kind}${a.at_s}`}>
              <span className="num">{localTime(a.at_s, answer.clock)}</span> {a.text}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

/** The rest of the night planned anew with what is really done. */
function Replan({ answer, at }: { answer: NowAnswer; at: number | null }) {
  const [replan, putBack, offerUndo] = [useReplan(), usePutNightsBack(), useOfferUndo()];
  const { campaign } = answer;
  if (!campaign) return null;
  const anew = async () => {
    const path = { id: campaign.id };
    const was = await answerOf(api.GET("/api/v1/campaigns/{id}", { params: { path } }));
    await replan({ campaign: campaign.id, at_s: at });
    const { nights } = was.campaign;
    offerUndo("The rest of the night is planned anew", () => putBack({ id: campaign.id, nights }));
  };
  return (
    <Button className="ml-auto min-h-[44px]" onClick={() => void anew().catch(fail)}>
      <RefreshCw size={16} aria-hidden /> Re-plan from now
    </Button>
  );
}
