import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { Link } from "react-router";
import type { NightAnswer, NightQuestion } from "@/api/client";
import { nightAheadQuery, tonightQuery } from "@/api/queries";
import { Button } from "@/parts/controls/Button";
import { Words } from "@/parts/Words";

type Props = {
  question: NightQuestion | null;
  night: NightAnswer;
  /** Whether the evening is weighed against the nights to come. */
  weigh: boolean;
  set: (key: string, value: string | null) => void;
  /** The site's id. */
  siteId: string | undefined;
};

/** What a night costs against a typical one of the month ahead, which is better, and what waits for it: nothing where it is as good as others. */
export function Ahead({ question, night, weigh, set, siteId }: Props) {
  const asked = useMemo(() => question && aheadOf(question), [question]);
  const { data } = useQuery(nightAheadQuery(asked));
  const waits = night.first.waits;
  if (!data?.text && waits.length === 0 && weigh) return null;
  return (
    <div className="rounded-lg bg-surface px-4 py-2">
      {data?.text && (
        <p className="text-[1.02rem] text-amber" data-testid="night-ahead">
          <Words text={data.text} />
          <Instead date={night.date} site={siteId} not={night.first.target} />
        </p>
      )}
      {(waits.length > 0 || !weigh) && (
        <p className="flex flex-wrap items-center gap-x-3" data-testid="night-waits">
          <span>{weigh ? <Words text={waits.join(" ")} /> : "Planned as if no better night followed."}</span>
          <Button look="quiet" className="px-1.5 print:hidden" onClick={() => set("weigh", weigh ? "no" : null)}>
            {weigh ? "Plan it tonight all the same" : "Weigh it against the nights ahead"}
          </Button>
        </p>
      )}
    </div>
  );
}

type InsteadProps = { date: string; site: string | undefined; not: string };

/** What the same evening is better for, where that is something else. */
function Instead({ date, site, not }: InsteadProps) {
  const { data } = useQuery(tonightQuery({ date, site }));
  if (!data) return null;
  const { kind, index } = data.choice;
  const name =
    kind === "campaign" ? data.campaigns[index]?.target : kind === "target" ? data.targets[index]?.name : null;
  if (!name || name === not) return null;
  return (
    <>
      {" "}
      <Link to={`/tonight?date=${date}`} className="text-ink underline underline-offset-4" data-testid="night-instead">
        Or {name} instead
      </Link>
    </>
  );
}

/** Of the question to the planner, what does not change while a plan is dragged about. */
function aheadOf({ scenario, contender, site, date, limits, place, campaign }: NightQuestion) {
  const framed = campaign && { ra_deg: campaign.framing.ra_deg, dec_deg: campaign.framing.dec_deg };
  return { scenario, contender, site, date, limits, place: framed ?? place };
}
