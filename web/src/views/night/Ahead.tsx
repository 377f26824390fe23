import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import type { NightQuestion } from "@/api/client";
import { nightAheadQuery } from "@/api/queries";
import { Words } from "@/parts/Words";

/** What a night costs against a typical one of the month ahead, and which is better: nothing where it is as good as others. */
export function Ahead({ question }: { question: NightQuestion | null }) {
  const asked = useMemo(() => question && aheadOf(question), [question]);
  const { data } = useQuery(nightAheadQuery(asked));
  if (!data?.text) return null;
  return (
    <p className="rounded-lg bg-surface px-4 py-2 text-[1.02rem] text-amber" data-testid="night-ahead">
      <Words text={data.text} />
    </p>
  );
}

/** Of the question to the planner, what does not change while a plan is dragged about. */
function aheadOf({ scenario, contender, site, date, limits, place, campaign }: NightQuestion) {
  const framed = campaign && { ra_deg: campaign.framing.ra_deg, dec_deg: campaign.framing.dec_deg };
  return { scenario, contender, site, date, limits, place: framed ?? place };
}
