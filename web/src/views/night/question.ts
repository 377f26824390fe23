import type {
  Campaign,
  CatalogueObject,
  Library,
  LockedBlock,
  NightQuestion,
  Plan,
  Quantity,
  Scenario,
  Target,
} from "@/api/client";
import { nightSite, type SiteEntry } from "@/parts/evening";
import type { Overheads } from "./OverheadsPopover";

type Asked = {
  scenario: Scenario;
  /** Index of the light path. */
  row: number;
  site: SiteEntry;
  date: string;
  campaign?: Campaign;
  /** "balanced", "fixed", or the quantity of which most is wanted. */
  mode: string;
  /** Altitude below which nothing is planned, degrees. */
  above: number;
  overheads: Overheads;
  /** Minutes of each exposure in a fixed list; an hour where none are given. */
  minutes: Readonly<Record<number, number>>;
  locked: Readonly<Record<"first" | "second", LockedBlock[]>>;
  second?: { object: CatalogueObject; emission?: Target | null };
  secondCampaign?: Campaign;
  library?: Library;
};

/** What each exposure of a campaign must reach: the first of its goals, which is what it is for. */
const goalsOf = (c: Campaign, exposures: number): number[] =>
  Array.from({ length: exposures }, (_, x) => c.goals.find((g) => g.exposure === x)?.snr ?? c.scenario.goal_snr ?? 20);

/** What each exposure of a campaign has, as squares of the signal to noise; the evening that is planned does not count for itself. */
export const doneBefore = (c: Campaign, exposures: number, date: string): number[] =>
  Array.from({ length: exposures }, (_, x) =>
    (c.nights ?? [])
      .filter((n) => !n.planned && n.date !== date)
      .flatMap((n) => n.shots)
      .reduce((sum, s) => sum + (s.exposure === x ? s.snr2 : 0), 0),
  );

/** The question to the planner: the site's sky, the campaign's goals and what it has, the address's choices. */
export function nightQuestion(a: Asked): NightQuestion {
  const { scenario, site, campaign, secondCampaign } = a;
  const exposures = scenario.contenders[a.row]?.exposures ?? [];
  const n = exposures.length;
  const object = a.second?.object;
  const preset = a.library?.targets.find((t) => t.kind === object?.kind && t.faintness === "moderate");
  const typical = object &&
    preset && {
      name: object.name,
      kind: object.kind,
      lines_rayleigh: preset.lines_rayleigh as Target["lines_rayleigh"],
      continuum: preset.continuum ?? null,
      peak_factor: preset.peak_factor,
    };
  const target = secondCampaign?.scenario.target ?? a.second?.emission ?? typical;
  const framed = (c: Campaign) => ({ ra_deg: c.framing.ra_deg, dec_deg: c.framing.dec_deg });
  return {
    scenario: {
      ...scenario,
      sky: {
        ...scenario.sky,
        zenith_v_mag: site.site.zenith_v_mag,
        lamps: site.site.lamps,
        site_height_m: site.site.height_m,
        k_v: site.site.k_v ?? null,
        toward_target_v_mag: null,
      },
    },
    contender: a.row,
    site: nightSite(site),
    date: a.date,
    place: campaign ? framed(campaign) : null,
    limits: { sun_below_deg: -18, altitude_above_deg: a.above, horizon_deg: site.site.horizon_deg ?? [] },
    plan: {
      goal:
        a.mode === "balanced"
          ? { kind: "balanced" }
          : a.mode === "fixed"
            ? {
                kind: "fixed",
                blocks: exposures.flatMap((_, exposure) =>
                  (a.minutes[exposure] ?? 60) > 0 ? [{ exposure, minutes: a.minutes[exposure] ?? 60 }] : [],
                ),
              }
            : { kind: "most", quantity: a.mode as Quantity },
      overheads: a.overheads,
      goal_snr: campaign ? goalsOf(campaign, n) : [],
      done_snr2: campaign ? doneBefore(campaign, n, a.date) : [],
      locked: a.locked.first,
    } as NightQuestion["plan"],
    second:
      object && target
        ? {
            target,
            place: secondCampaign ? framed(secondCampaign) : { ra_deg: object.ra_deg, dec_deg: object.dec_deg },
            locked: a.locked.second,
            goal_snr: secondCampaign ? goalsOf(secondCampaign, n) : [],
            done_snr2: secondCampaign ? doneBefore(secondCampaign, n, a.date) : [],
          }
        : null,
  };
}

export type CampaignNight = NonNullable<Campaign["nights"]>[number];

/** A plan as a campaign keeps it: subs of each filter, and what they add to every line. */
export function ofPlan(date: string, plan: Plan, planned: boolean): CampaignNight {
  const shots = plan.totals
    .filter((t) => t.subs > 0)
    .map((t) => {
      const own = plan.blocks.filter((b) => b.exposure === t.exposure);
      const lines: Record<string, number> = {};
      for (const b of own)
        for (const [q, v] of Object.entries(b.lines_snr2 as Record<string, number>)) lines[q] = (lines[q] ?? 0) + v;
      const snr2 = own.reduce((sum, b) => sum + b.snr2, 0);
      return { exposure: t.exposure, subs: t.subs, snr2, lines_snr2: lines };
    });
  return { date, shots, note: "", planned };
}

/**
 * A campaign's nights with one more: in the place of what was only planned for that evening; `null` where the evening is recorded
 * already, which must not count twice.
 */
export function withNight(nights: readonly CampaignNight[], night: CampaignNight): CampaignNight[] | null {
  if (nights.some((n) => n.date === night.date && !n.planned)) return null;
  return [...nights.filter((n) => n.date !== night.date), night];
}
