import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import type { Library, NightAnswer, Scenario, StoredEntry } from "@/api/client";
import { kitQuery, rigScenarioQuery, rigsQuery, scenarioQuery, shelfQuery } from "@/api/queries";
import { useParamsEdit } from "./useParams";

export type SiteEntry = StoredEntry & { site: Site };
type Site = Extract<StoredEntry["entry"]["thing"], { kind: "site" }>["item"];

/** The sites of the shelf. */
export function useSites(): SiteEntry[] {
  const shelf = useQuery(shelfQuery(false));
  return useMemo(
    () =>
      (shelf.data ?? []).flatMap((e) => (e.entry.thing.kind === "site" ? [{ ...e, site: e.entry.thing.item }] : [])),
    [shelf.data],
  );
}

/** A rig and a site to choose for questions about nights: the rigs of the kit, then the user's comparisons, else the shipped examples. */
export function useRigAndSite(library: Library) {
  const sites = useSites();
  // In the address, so that every question about one target is asked for one rig and one site.
  const [params, editParams] = useParamsEdit();
  const rig = params.get("path");
  const setRig = (value: string) => editParams((p) => p.set("path", value));
  const siteId = params.get("site");
  const setSite = (id: string) => editParams((p) => p.set("site", id));
  const own = useQuery(rigsQuery);
  const kit = useQuery(kitQuery);
  const rigs = useMemo(() => {
    const ofKit = (kit.data ?? []).flatMap((r) =>
      (r.ready?.sets ?? []).map((set) => ({
        value: `kit ${r.id} ${set.key}`,
        label: set.name,
        group: r.name,
        scenario: "",
        contender: 0,
      })),
    );
    const mine = (own.data ?? []).map((r) => ({
      value: `${r.scenario} ${r.contender}`,
      label: r.name,
      group: r.title,
      scenario: r.scenario,
      contender: r.contender,
    }));
    const shipped = library.examples.flatMap((e) =>
      e.scenario.contenders.map((c, i) => ({
        value: `${e.id} ${i}`,
        label: c.name,
        group: e.scenario.title,
        scenario: e.scenario,
        contender: i,
      })),
    );
    return own.data?.length === 0 && ofKit.length === 0 ? shipped : [...ofKit, ...mine];
  }, [own.data, kit.data, library.examples]);
  const chosen = rigs.find((r) => r.value === rig) ?? rigs[0];
  const id = typeof chosen?.scenario === "string" ? chosen.scenario : "";
  const stored = useQuery(scenarioQuery(id));
  const [, rigId, set] = /^kit (\S+) (.+)$/.exec(chosen?.value ?? "") ?? [];
  const ofKit = useQuery(rigScenarioQuery(rigId && set ? { rig: rigId, set } : null));
  const scenario = typeof chosen?.scenario === "object" ? chosen.scenario : rigId ? ofKit.data : stored.data?.scenario;
  return {
    sites,
    site: sites.find((s) => s.id === siteId) ?? sites[0],
    setSite,
    rigs,
    chosen: chosen?.value ?? "",
    used: chosen && scenario ? { value: chosen.value, scenario, contender: chosen.contender } : undefined,
    /** Nothing of the user's own is there yet: what is asked about is an example that ships. */
    isExample: typeof chosen?.scenario === "object",
    setRig,
  };
}

/** A sky as it stands over a site: what was measured there, under the same moon and air temperature. */
export const skyOf = (sky: Scenario["sky"], { entry, site }: SiteEntry): Scenario["sky"] => ({
  ...sky,
  site: entry.name,
  zenith_v_mag: site.zenith_v_mag,
  lamps: { ...site.lamps },
  site_height_m: site.height_m,
  latitude_deg: site.latitude_deg,
  k_v: site.k_v ?? null,
  toward_target_v_mag: null,
  toward_target_altitude_deg: null,
  toward_target_azimuth_deg: null,
  glow: site.glow ?? [],
});

/** A site as a night wants it. */
export const nightSite = (s: SiteEntry) => ({
  name: s.entry.name,
  latitude_deg: s.site.latitude_deg,
  longitude_deg: s.site.longitude_deg,
  height_m: s.site.height_m,
  zone: s.site.zone ?? null,
});

const iso = (d: Date) =>
  `${d.getFullYear()}-${String(d.getMonth() + 1).padStart(2, "0")}-${String(d.getDate()).padStart(2, "0")}`;

/** The evening that is now at a site: until noon by its own clock it is yesterday's. Without a site, by this browser's. */
export function tonightDate(site?: Pick<Site, "zone" | "longitude_deg">, now = new Date()): string {
  // Twelve hours back, it is the evening's date all night long.
  const noon = new Date(now.getTime() - 12 * 3_600_000);
  if (!site) return iso(noon);
  if (site.zone) {
    try {
      return new Intl.DateTimeFormat("en-CA", { timeZone: site.zone, dateStyle: "short" }).format(noon);
    } catch {
      // A zone that this browser does not know: by the longitude.
    }
  }
  return new Date(noon.getTime() + Math.round(site.longitude_deg / 15) * 3_600_000).toISOString().slice(0, 10);
}

export function shiftDate(date: string, days: number): string {
  const [y = 2027, m = 1, d = 1] = date.split("-").map(Number);
  return iso(new Date(y, m - 1, d + days, 12));
}

export type ClockOffset = { from_s: number; offset_s: number };

/** "23:40" of a moment by the night's own clock. */
export function localTime(at: number | null | undefined, clock: readonly ClockOffset[]): string {
  if (at == null) return "–";
  const offset = [...clock].reverse().find((c) => c.from_s <= at) ?? clock[0];
  const minutes = Math.round((at + (offset?.offset_s ?? 0)) / 60);
  const m = ((minutes % 1440) + 1440) % 1440;
  return `${String(Math.floor(m / 60)).padStart(2, "0")}:${String(m % 60).padStart(2, "0")}`;
}

/** The targets of a night in their order, the plan with which it ends, and whether anything is planned at all. */
export function ofNight(night: NightAnswer) {
  const targets = [night.first, ...night.others];
  return {
    targets,
    end: targets
      .map((t) => t.plan)
      .filter((p) => p.finished_s != null)
      .sort((a, b) => (a.finished_s ?? 0) - (b.finished_s ?? 0))
      .at(-1),
    anything: targets.some((t) => t.plan.blocks.length > 0),
  };
}
