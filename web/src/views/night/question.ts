import type { Campaign, CatalogueObject, LockedBlock, NightQuestion, Quantity, Scenario, Target } from "@/api/client";
import { nightSite, type SiteEntry, skyOf } from "@/parts/evening";
import { usual } from "@/parts/range";
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
  /** The second target, with what the user says it emits and what its kind does. */
  second?: { object: CatalogueObject; emission?: Target | null; catalogued: Target };
  secondCampaign?: Campaign;
};

/** The question to the planner: the site's sky, the campaign as it stands, the address's choices. */
export function nightQuestion(a: Asked): NightQuestion {
  const { scenario, site, campaign, secondCampaign } = a;
  const exposures = scenario.contenders[a.row]?.exposures ?? [];
  const object = a.second?.object;
  const target = secondCampaign?.scenario.target ?? a.second?.emission ?? a.second?.catalogued;
  return {
    scenario: { ...scenario, sky: skyOf(scenario.sky, site) },
    contender: a.row,
    site: nightSite(site),
    date: a.date,
    limits: {
      sun_below_deg: usual("NightLimits", "sun_below_deg"),
      altitude_above_deg: a.above,
      horizon_deg: site.site.horizon_deg ?? [],
    },
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
      locked: a.locked.first,
    } as NightQuestion["plan"],
    campaign: campaign ?? null,
    second:
      object && target
        ? {
            target,
            place: { ra_deg: object.ra_deg, dec_deg: object.dec_deg },
            locked: a.locked.second,
            campaign: secondCampaign ?? null,
          }
        : null,
  };
}
