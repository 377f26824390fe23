import type { Campaign, CampaignState } from "@/api/client";

export type CampaignNight = NonNullable<Campaign["nights"]>[number];
export type PerSub = CampaignState["per_sub"];
type Shot = CampaignNight["shots"][number];

/** Subs of an exposure in a night. */
const subs = (night: CampaignNight, exposure: number) =>
  night.shots.reduce((sum, s) => sum + (s.exposure === exposure ? s.subs : 0), 0);

/** What a number of subs adds: in proportion to what was there; where nothing was, what the scenario's sky gives. */
function shot(night: CampaignNight, exposure: number, count: number, perSub: PerSub | undefined): Shot {
  const own = night.shots.filter((s) => s.exposure === exposure);
  const had = subs(night, exposure);
  if (had > 0) {
    const lines: Record<string, number> = {};
    for (const s of own)
      for (const [q, v] of Object.entries(s.lines_snr2 ?? {})) lines[q] = (lines[q] ?? 0) + (v * count) / had;
    return { exposure, subs: count, snr2: (own.reduce((sum, s) => sum + s.snr2, 0) * count) / had, lines_snr2: lines };
  }
  const each = perSub?.[exposure] ?? [];
  const lines = Object.fromEntries(each.map((l) => [l.quantity, l.snr2 * count]));
  return { exposure, subs: count, snr2: (each[0]?.snr2 ?? 0) * count, lines_snr2: lines };
}

/** A night with other counts. */
const night = (from: CampaignNight, counts: readonly number[], perSub: PerSub | undefined): CampaignNight => ({
  ...from,
  shots: counts.flatMap((count, exposure) => (count > 0 ? [shot(from, exposure, count, perSub)] : [])),
});

export const counted = { subs, night };
