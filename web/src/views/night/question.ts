import type { Campaign, CatalogueObject, LockedBlock, NightQuestion, Quantity, Scenario, Target } from "@/api/client";
import { nightSite, type SiteEntry, skyOf } from "@/parts/evening";
import { type Locks, locksOf } from "./locks";
import type { Overheads } from "./OverheadsPopover";
import type { Further, StruckOut } from "./targets";

/** What a target of the catalogue is, with what the user says it emits and what its kind does. */
type Known = { object: CatalogueObject; emission?: Target | null; catalogued: Target };

/** A further target with what its campaign, comparison or name stands for. */
export type FurtherFound = Further & {
  name: string;
  campaign?: Campaign;
  campaignId?: string;
  /** A rig of its own. */
  scenario?: Scenario;
  row?: number;
  /** A target of the catalogue, through the rig of the first. */
  known?: Known;
};

/** Hours and heights between which a night is worked. */
export type Hours = {
  /** Altitude of the sun, degrees. */
  sun: number;
  /** Altitude below which nothing is planned, degrees. */
  above: number;
  /** Set-up begins, and the last sub ends, by the clock. */
  from: string | null;
  until: string | null;
  /** The first target, between these hours only. */
  before: string | null;
  after: string | null;
};

type Asked = {
  scenario: Scenario;
  /** Index of the light path. */
  row: number;
  site: SiteEntry;
  date: string;
  campaign?: Campaign;
  /** "balanced", "by_moon", "ha_first", "fixed", or the quantity of which most is wanted. */
  mode: string;
  hours: Hours;
  overheads: Overheads;
  /** Minutes of each exposure in a fixed list; an hour where none are given. */
  minutes: Readonly<Record<number, number>>;
  /** Subs of each exposure in a fixed list; null for one in minutes. */
  counts: Readonly<Record<number, number>> | null;
  locked: Locks;
  struckOut: readonly StruckOut[];
  /** Whether a campaign's evening is weighed against the nights to come. */
  weigh: boolean;
  further: readonly FurtherFound[];
};

type Limits = NonNullable<NightQuestion["limits"]>;
type Goal = NonNullable<NonNullable<NightQuestion["plan"]>["goal"]>;

/** Subs of each filter with which a list in subs begins. */
export const USUAL_COUNT = 20;

/** What the plan is for, as the question wants it. */
function goalOf({ mode, minutes, counts }: Pick<Asked, "mode" | "minutes" | "counts">, exposures: number): Goal {
  if (mode === "balanced" || mode === "by_moon" || mode === "ha_first") return { kind: mode };
  if (mode !== "fixed") return { kind: "most", quantity: mode as Quantity };
  const blocks = Array.from({ length: exposures }, (_, exposure) =>
    counts
      ? { exposure, minutes: 60, subs: counts[exposure] ?? USUAL_COUNT }
      : { exposure, minutes: minutes[exposure] ?? 60, subs: null },
  );
  return { kind: "fixed", blocks: blocks.filter((b) => b.minutes > 0 && b.subs !== 0) };
}

/** The question to the planner: the site's sky, the campaign as it stands, the address's choices. */
export function nightQuestion(a: Asked): NightQuestion {
  const { scenario, site, campaign, hours } = a;
  const exposures = scenario.contenders[a.row]?.exposures.length ?? 0;
  const limits: Limits = {
    sun_below_deg: hours.sun,
    altitude_above_deg: hours.above,
    horizon_deg: site.site.horizon_deg ?? [],
    not_before: hours.from,
    not_after: hours.until,
  };
  return {
    scenario: { ...scenario, sky: skyOf(scenario.sky, site) },
    contender: a.row,
    site: nightSite(site),
    date: a.date,
    limits,
    first_limits: hours.before || hours.after ? within(limits, hours.before, hours.after) : null,
    plan: {
      goal: goalOf(a, exposures),
      overheads: a.overheads,
      locked: locksOf(a.locked, 0) as LockedBlock[],
      struck_out: [...a.struckOut],
    } as NightQuestion["plan"],
    campaign: campaign ?? null,
    weigh: a.weigh,
    others: a.further.map((f, i) => furtherTarget(f, a, limits, i + 1)),
  };
}

/** A target's own hours within those of the night. */
const within = (night: Limits, before?: string | null, after?: string | null): Limits => ({
  ...night,
  not_before: before ?? night.not_before ?? null,
  not_after: after ?? night.not_after ?? null,
});

function furtherTarget(f: FurtherFound, a: Asked, limits: Limits, index: number) {
  const scenario = f.campaign?.scenario ?? f.scenario;
  const own = within(limits, f.before, f.after);
  // A list of minutes is the first target's own; a further one is balanced then.
  const listed = a.mode === "fixed" ? { goal: { kind: "balanced" as const } } : {};
  return {
    ...(scenario
      ? {
          scenario: { ...scenario, sky: skyOf(scenario.sky, a.site) },
          contender: f.row ?? f.campaign?.contender ?? 0,
        }
      : {
          target: f.known?.emission ?? f.known?.catalogued ?? null,
          place: f.known ? { ra_deg: f.known.object.ra_deg, dec_deg: f.known.object.dec_deg } : null,
        }),
    ...listed,
    limits: { ...own, altitude_above_deg: f.above ?? limits.altitude_above_deg },
    change: f.change === "at" ? { kind: "at" as const, time: f.time ?? "00:00" } : { kind: f.change },
    locked: locksOf(a.locked, index) as LockedBlock[],
    campaign: f.campaign ?? null,
  };
}
