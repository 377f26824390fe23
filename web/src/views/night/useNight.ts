import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { answerOf, api, type NightQuestion } from "@/api/client";
import { campaignsQuery, scenarioQuery, scenariosQuery } from "@/api/queries";
import { useLive } from "@/api/useLive";
import { tonightDate, useSites } from "@/parts/evening";
import { usual } from "@/parts/range";
import { useParamsEdit } from "@/parts/useParams";
import { readMinutes, readOverheads, writeMinutes, writeOverheads } from "./address";
import type { Overheads } from "./OverheadsPopover";
import { type FurtherFound, type Hours, nightQuestion } from "./question";
import { type Further, readStruckOut, type StruckOut, writeFurther, writeStruckOut } from "./targets";
import { useFurther } from "./useFurther";
import { useLocks } from "./useLocks";
import { useTrialBlock } from "./useTrialBlock";

/** The altitude below which nothing is planned where nothing else is said, degrees. */
export const USUAL_ABOVE_DEG = usual("NightLimits", "altitude_above_deg");
/** The sun's altitude below which it is dark where nothing else is said, degrees. */
export const USUAL_SUN_DEG = usual("NightLimits", "sun_below_deg");

/** Writes a part of the address; one that is empty is left out. */
export const put = (p: URLSearchParams, key: string, text: string | null) => (text ? p.set(key, text) : p.delete(key));

const readHours = (params: URLSearchParams): Hours => ({
  sun: Number(params.get("sun") ?? USUAL_SUN_DEG) || USUAL_SUN_DEG,
  above: Number(params.get("above") ?? USUAL_ABOVE_DEG) || USUAL_ABOVE_DEG,
  from: params.get("from"),
  until: params.get("until"),
  before: params.get("before"),
  after: params.get("after"),
});

/** What a night is asked, all of it in the address: rig, site, evening, what the plan is for, overheads, further targets. */
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
  const paths = campaign ? [campaign.campaign.contender, ...(campaign.campaign.also ?? [])] : [];
  const asked = Number(params.get("row") ?? campaign?.campaign.contender ?? 0) || 0;
  const row = campaign
    ? paths.includes(asked)
      ? asked
      : campaign.campaign.contender
    : Math.min(asked, (scenario?.contenders.length ?? 1) - 1);
  const mode = params.get("mode") ?? "balanced";
  const hours = useMemo(() => readHours(params), [params]);
  const weigh = params.get("weigh") !== "no";
  // Locks belong to one night of one rig at one site.
  const locks = useLocks([date, id, row, site?.id, campaign?.id].join(" "));
  const { locked } = locks;
  const overheads = useMemo(() => readOverheads(params.get("overheads")), [params]);
  const minutes = useMemo(() => readMinutes(params.get("minutes")), [params]);
  const written = params.get("subs");
  const counts = useMemo(() => (written === null ? null : readMinutes(written)), [written]);
  const struck = params.get("struck");
  // A night that was cut stays cut: what its campaign keeps of it holds until something else is said.
  const kept = campaign?.campaign.nights?.find((k) => k.date === date)?.struck_out;
  const struckOut = useMemo(() => (struck === null ? (kept ?? []) : readStruckOut(struck, date)), [struck, date, kept]);
  const trial = useTrialBlock(params.get("trial"), date, site?.id);
  const taken = trial.block;
  const closed = useMemo(
    () => (taken ? [...struckOut, { from_s: taken.from_s, to_s: taken.to_s }] : struckOut),
    [struckOut, taken],
  );
  const further = useFurther(params, campaigns.data);
  const first = campaign?.campaign;
  const question = useMemo<NightQuestion | null>(() => {
    if (!scenario || !site || further.found.some((f) => f === null)) return null;
    const found = further.found as FurtherFound[];
    const of = { scenario, row, site, date, mode, hours, overheads, minutes, counts, locked, weigh };
    return nightQuestion({ ...of, struckOut: closed, campaign: first, further: found });
  }, [scenario, site, row, date, mode, hours, overheads, minutes, counts, locked, closed, weigh, first, further.found]);
  const live = useLive(question, async (body) => (body ? answerOf(api.POST("/api/v1/night", { body })) : undefined));
  const setFurther = (how: (all: string[]) => string[], also?: (p: URLSearchParams) => void) =>
    edit((p) => {
      const all = how(p.getAll("then").filter(Boolean));
      p.delete("then");
      for (const t of all) p.append("then", t);
      also?.(p);
    });
  return {
    ...{ sites, site, date, scenario, row, mode, hours, overheads, minutes, campaign, id, locks, further, weigh },
    ...{ question, live, edit, struckOut, counts, paths, trial },
    campaigns: campaigns.data ?? [],
    list: list.data,
    set: (key: string, value: string | null) => edit((p) => put(p, key, value)),
    add: (f: Further) => setFurther((all) => [...all, writeFurther(f)]),
    change: (index: number, f: Further) => setFurther((all) => all.map((t, i) => (i === index ? writeFurther(f) : t))),
    leave: (index: number) =>
      setFurther(
        (all) => all.filter((_, i) => i !== index),
        (p) => locks.leave(p, index + 1),
      ),
    strikeOut: (how: (all: StruckOut[]) => StruckOut[]) =>
      edit((p) => {
        const now = p.get("struck");
        p.set("struck", writeStruckOut(how(now === null ? [...struckOut] : readStruckOut(now, date))) ?? "none");
      }),
    // Each edit starts from the address as it is by then: two fields filled in quick turn both stay.
    setOverheads: (some: Overheads) =>
      edit((p) => put(p, "overheads", writeOverheads({ ...readOverheads(p.get("overheads")), ...some }))),
    /** The list in subs, or (null) in minutes. */
    setCounts: (counts: Readonly<Record<number, number>> | null) =>
      edit((p) => (counts ? p.set("subs", writeMinutes({ ...counts }) ?? "") : p.delete("subs"))),
    /** Takes a list that the planner offers. */
    takeList: (blocks: readonly { exposure: number; minutes: number; subs?: number | null }[]) =>
      edit((p) => {
        const of = (value: (b: (typeof blocks)[number]) => number) =>
          writeMinutes(Object.fromEntries(blocks.map((b) => [b.exposure, value(b)])));
        if (blocks.some((b) => b.subs != null))
          put(
            p,
            "subs",
            of((b) => b.subs ?? 0),
          );
        else
          put(
            p,
            "minutes",
            of((b) => b.minutes),
          );
      }),
    setMinutes: (exposure: number, v: number) =>
      edit((p) => put(p, "minutes", writeMinutes({ ...readMinutes(p.get("minutes")), [exposure]: v }))),
  };
}

export type Night = ReturnType<typeof useNight>;
