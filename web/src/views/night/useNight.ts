import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { answerOf, api, type Contender, type NightQuestion } from "@/api/client";
import { campaignsQuery, scenarioQuery, scenariosQuery, targetQuery } from "@/api/queries";
import { useLive } from "@/api/useLive";
import { tonightDate, useSites } from "@/parts/evening";
import { usual } from "@/parts/range";
import { useParamsEdit } from "@/parts/useParams";
import { readMinutes, readOverheads, writeMinutes, writeOverheads } from "./address";
import type { Overheads } from "./OverheadsPopover";
import { nightQuestion } from "./question";
import { useLocks } from "./useLocks";

/** What tells one rig's exposures from another's. */
const filtersOf = (c: Contender | undefined) => c?.exposures.map((e) => e.filter?.name ?? "").join("\n");

/** The altitude below which nothing is planned where nothing else is said, degrees. */
export const USUAL_ABOVE_DEG = usual("NightLimits", "altitude_above_deg");

/** Writes a part of the address; one that is empty is left out. */
export const put = (p: URLSearchParams, key: string, text: string | null) => (text ? p.set(key, text) : p.delete(key));

/** What a night is asked, all of it in the address: rig, site, evening, what the plan is for, overheads, a second target. */
export function useNight() {
  const [params, edit] = useParamsEdit();
  const sites = useSites();
  const campaigns = useQuery(campaignsQuery);
  const list = useQuery(scenariosQuery);
  const campaign = campaigns.data?.find((c) => c.id === params.get("campaign"));
  const id = params.get("bench") ?? list.data?.[0]?.id ?? "";
  const stored = useQuery(scenarioQuery(campaign ? "" : id));
  // A campaign has a site of its own; a comparison that of its sky, where it has one.
  const chosen = params.get("site") ?? campaign?.campaign.site;
  const site =
    sites.find((s) => s.id === chosen) ??
    sites.find((s) => s.entry.name === stored.data?.scenario.sky.site) ??
    sites[0];
  const date = params.get("date") ?? tonightDate(site?.site);
  const scenario = campaign?.campaign.scenario ?? stored.data?.scenario;
  const row = campaign
    ? campaign.campaign.contender
    : Math.min(Number(params.get("row") ?? 0) || 0, (scenario?.contenders.length ?? 1) - 1);
  const mode = params.get("mode") ?? "balanced";
  const above = Number(params.get("above") ?? USUAL_ABOVE_DEG) || USUAL_ABOVE_DEG;
  // Locks belong to one night of one rig at one site.
  const locks = useLocks([date, id, row, site?.id, campaign?.id].join(" "));
  const { locked } = locks;
  const overheads = useMemo(() => readOverheads(params.get("overheads")), [params]);
  const minutes = useMemo(() => readMinutes(params.get("minutes")), [params]);
  const then = params.get("then") ?? "";
  const other = useQuery({ ...targetQuery(then), enabled: then.length > 2, retry: false });
  const second = then ? other.data : undefined;
  // A campaign of its own for the second target, through the same filters, holds where it is framed and what it has already.
  const secondCampaign = campaigns.data?.find(
    ({ id: own, campaign: c }) =>
      own !== campaign?.id &&
      c.scenario.target.name === other.data?.object.name &&
      filtersOf(c.scenario.contenders[c.contender]) === filtersOf(scenario?.contenders[row]),
  );
  const [first, ofSecond] = [campaign?.campaign, second ? secondCampaign?.campaign : undefined];
  const question = useMemo<NightQuestion | null>(() => {
    if (!scenario || !site) return null;
    const asked = { scenario, row, site, date, mode, above, overheads, minutes, locked };
    return nightQuestion({ ...asked, campaign: first, second, secondCampaign: ofSecond });
  }, [scenario, site, row, date, mode, above, overheads, minutes, locked, first, second, ofSecond]);
  const live = useLive(question, async (body) => (body ? answerOf(api.POST("/api/v1/night", { body })) : undefined));
  return {
    ...{ sites, site, date, scenario, row, mode, above, overheads, minutes, then, campaign, secondCampaign, id, locks },
    campaigns: campaigns.data ?? [],
    list: list.data,
    unknownSecond: other.isError,
    question,
    live,
    edit,
    set: (key: string, value: string | null) => edit((p) => put(p, key, value)),
    // Each edit starts from the address as it is by then: two fields filled in quick turn both stay.
    setOverheads: (some: Overheads) =>
      edit((p) => put(p, "overheads", writeOverheads({ ...readOverheads(p.get("overheads")), ...some }))),
    setMinutes: (exposure: number, v: number) =>
      edit((p) => put(p, "minutes", writeMinutes({ ...readMinutes(p.get("minutes")), [exposure]: v }))),
  };
}

export type Night = ReturnType<typeof useNight>;
