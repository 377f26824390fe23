import { useQuery } from "@tanstack/react-query";
import type { CampaignNight, NightAnswer, StoredCampaign } from "@/api/client";
import { campaignStateQuery } from "@/api/queries";

type Kept = { stored: StoredCampaign; path: number };

/** Subs of an exposure. */
const subsOf = (shots: CampaignNight["shots"], exposure: number) =>
  shots.reduce((sum, s) => sum + (s.exposure === exposure ? s.subs : 0), 0);

type Props = {
  night: NightAnswer;
  date: string;
  /** The campaign of each target, in their order. */
  campaigns: readonly (Kept | undefined)[];
};

/** Plans that were kept for this evening and have more subs than now fit, filter by filter. */
export function KeptPlan({ night, date, campaigns }: Props) {
  const said = [night.first, ...night.others].flatMap((of, i) => {
    const own = campaigns[i];
    const kept = own?.stored.campaign.nights?.find((n) => n.date === date && n.planned);
    if (!own || !kept) return [];
    return of.filters.flatMap((filter, exposure) => {
      const [had, fits] = [subsOf(kept.shots, exposure), subsOf(of.shots, exposure)];
      return had > fits ? [`${had} of ${filter} are too many now, ${fits} fit`] : [];
    });
  });
  if (said.length === 0) return null;
  return (
    <p className="rounded-lg bg-surface px-4 py-2" data-testid="night-kept">
      The plan that was kept for this evening no longer fits: {said.join("; ")}. "Keep the plan" takes what fits.
    </p>
  );
}

/** When a target's campaign may be finished, in the words of its own page. */
export function Finish({ campaign, date }: { campaign: StoredCampaign; date: string }) {
  const { data } = useQuery(campaignStateQuery(campaign.id, campaign.revision, date));
  return data ? (
    <p className="mt-1 text-[0.92rem]" data-testid="night-finish">
      {data.finish}
    </p>
  ) : null;
}
