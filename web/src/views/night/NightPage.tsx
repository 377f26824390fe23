import { useQuery, useQueryClient } from "@tanstack/react-query";
import { CalendarPlus, ChevronLeft, ChevronRight, Printer } from "lucide-react";
import { Fragment, useEffect, useMemo, useState } from "react";
import { Link } from "react-router";
import { toast } from "sonner";
import { api, type LockedBlock, must, type NightQuestion, type PlanBlock, type Quantity } from "@/api/client";
import { useFoot } from "@/Frame";
import { clock, percent, snr } from "@/parts/format";
import { saveFile } from "@/parts/save";
import { Button, IconButton, NumberField, Select } from "@/parts/ui";
import { useParamsEdit } from "@/parts/useParams";
import { Words } from "@/parts/Words";
import { useCommands } from "@/shortcuts";
import { mark, QUANTITIES, QUANTITY_LABELS } from "@/theme/marks";
import { useLive } from "../bench/useLive";
import { readMinutes, readOverheads, writeMinutes, writeOverheads } from "./address";
import { NightChart, type Whose } from "./NightChart";
import { type Overheads, OverheadsPopover } from "./OverheadsPopover";
import { localTime, nightSite, shiftDate, tonightDate, useSites } from "./useNight";

type Locks = Record<Whose, LockedBlock[]>;
const NO_LOCKS: Locks = { first: [], second: [] };

const FILES = [
  ["ics", "iCalendar", "text/calendar"],
  ["csv", "CSV", "text/csv"],
  ["json", "JSON", "application/json"],
] as const;

/** A night: what there is to see, what each filter gathers, and the plan. */
export function NightPage() {
  const [params, edit] = useParamsEdit();
  const foot = useFoot();
  const client = useQueryClient();
  const sites = useSites();
  const campaigns = useQuery({ queryKey: ["campaigns"], queryFn: () => must(api.GET("/api/v1/campaigns")) });
  const list = useQuery({ queryKey: ["scenarios"], queryFn: () => must(api.GET("/api/v1/scenarios")) });
  const campaign = campaigns.data?.find((c) => c.id === params.get("campaign"));
  const id = params.get("bench") ?? list.data?.[0]?.id ?? "";
  const stored = useQuery({
    queryKey: ["night-scenario", id],
    queryFn: () => must(api.GET("/api/v1/scenarios/{id}", { params: { path: { id } } })),
    enabled: id !== "" && !campaign,
  });
  const set = (key: string, value: string | null) => edit((p) => (value ? p.set(key, value) : p.delete(key)));
  const date = params.get("date") ?? tonightDate();
  const site = sites.find((s) => s.id === (params.get("site") ?? campaign?.campaign.site)) ?? sites[0];
  const scenario = campaign?.campaign.scenario ?? stored.data?.scenario;
  const row = campaign
    ? campaign.campaign.contender
    : Math.min(Number(params.get("row") ?? 0) || 0, (scenario?.contenders.length ?? 1) - 1);
  const mode = params.get("mode") ?? "balanced";
  const above = Number(params.get("above") ?? 20) || 20;
  // Locks belong to one night of one rig at one site.
  const where = [date, id, row, site?.id, campaign?.id].join(" ");
  const [locks, setLocks] = useState<{ where: string; locked: Locks; history: Locks[] }>({
    where,
    locked: NO_LOCKS,
    history: [],
  });
  const locked = useMemo(() => (locks.where === where ? locks.locked : NO_LOCKS), [locks, where]);
  const history = locks.where === where ? locks.history : [];
  const changeLocks = (how: (locked: Locks) => Locks) =>
    setLocks((was) => {
      const now = was.where === where ? was : { locked: NO_LOCKS, history: [] };
      return { where, locked: how(now.locked), history: [...now.history.slice(-30), now.locked] };
    });
  const overheads = useMemo(() => readOverheads(params.get("overheads")), [params]);
  const put = (p: URLSearchParams, key: string, text: string | null) => (text ? p.set(key, text) : p.delete(key));
  // Each edit starts from the address as it is by then: two fields filled in quick turn both stay.
  const setOverheads = (some: Overheads) =>
    edit((p) => put(p, "overheads", writeOverheads({ ...readOverheads(p.get("overheads")), ...some })));
  const minutes = useMemo(() => readMinutes(params.get("minutes")), [params]);
  const setMinutes = (exposure: number, v: number) =>
    edit((p) => put(p, "minutes", writeMinutes({ ...readMinutes(p.get("minutes")), [exposure]: v })));
  const second = params.get("then") ?? "";
  const other = useQuery({
    queryKey: ["target", second],
    queryFn: () => must(api.GET("/api/v1/targets/{name}", { params: { path: { name: second } } })),
    enabled: second.length > 2,
    retry: false,
  });
  const library = useQuery({
    queryKey: ["library"],
    queryFn: () => must(api.GET("/api/v1/library")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const question = useMemo<NightQuestion | null>(() => {
    if (!scenario || !site) return null;
    const done = campaign
      ? scenario.contenders[row]?.exposures.map((_, x) =>
          (campaign.campaign.nights ?? [])
            .filter((n) => !n.planned)
            .flatMap((n) => n.shots)
            .reduce((sum, s) => sum + (s.exposure === x ? s.snr2 : 0), 0),
        )
      : [];
    const goals = campaign
      ? scenario.contenders[row]?.exposures.map(
          (_, x) => campaign.campaign.goals.find((g) => g.exposure === x)?.snr ?? scenario.goal_snr ?? 20,
        )
      : [];
    const object = second ? other.data?.object : undefined;
    const preset = library.data?.targets.find((t) => t.kind === object?.kind && t.faintness === "moderate");
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
      contender: row,
      site: nightSite(site),
      date,
      place: campaign ? { ra_deg: campaign.campaign.framing.ra_deg, dec_deg: campaign.campaign.framing.dec_deg } : null,
      limits: { sun_below_deg: -18, altitude_above_deg: above, horizon_deg: site.site.horizon_deg ?? [] },
      plan: {
        goal:
          mode === "balanced"
            ? { kind: "balanced" }
            : mode === "fixed"
              ? {
                  kind: "fixed",
                  blocks: (scenario.contenders[row]?.exposures ?? []).flatMap((_, exposure) =>
                    (minutes[exposure] ?? 60) > 0 ? [{ exposure, minutes: minutes[exposure] ?? 60 }] : [],
                  ),
                }
              : { kind: "most", quantity: mode as Quantity },
        overheads,
        goal_snr: goals ?? [],
        done_snr2: done ?? [],
        locked: locked.first,
      } as NightQuestion["plan"],
      second:
        object && preset
          ? {
              target: other.data?.emission ?? {
                name: object.name,
                kind: object.kind,
                lines_rayleigh: preset.lines_rayleigh as never,
                continuum: preset.continuum ?? null,
                peak_factor: preset.peak_factor,
              },
              place: { ra_deg: object.ra_deg, dec_deg: object.dec_deg },
              locked: locked.second,
            }
          : null,
    };
  }, [scenario, site, row, date, mode, locked, campaign, above, second, other.data, library.data, overheads, minutes]);
  const { answer: night, problem } = useLive(question, async (body) =>
    body ? must(api.POST("/api/v1/night", { body })) : undefined,
  );
  useEffect(() => {
    foot(
      night ? (
        <>
          <span>
            {night.first.target} <b className="num font-medium text-ink">{night.first.coordinates}</b>
          </span>
          <span className="num">
            {night.first.ra_deg.toFixed(4)}° {night.first.dec_deg.toFixed(4)}°
          </span>
          <span>moon {Math.round(night.first.view.events.moon_distance_deg)}° away</span>
        </>
      ) : null,
    );
    return () => foot(null);
  }, [foot, night]);
  const undo = () =>
    setLocks((was) => {
      const last = was.history.at(-1);
      return last ? { ...was, locked: last, history: was.history.slice(0, -1) } : was;
    });
  useCommands([
    { id: "night-undo", label: "Undo the last change to the plan", keys: "u", run: undo },
    { id: "night-next", label: "Next night", keys: "]", run: () => set("date", shiftDate(date, 1)) },
    { id: "night-back", label: "Night before", keys: "[", run: () => set("date", shiftDate(date, -1)) },
  ]);
  const lock = (whose: Whose, b: PlanBlock, from_s: number, to_s: number) =>
    changeLocks((now) => ({
      ...now,
      [whose]: [
        ...now[whose].filter((l) => !(l.exposure === b.exposure && Math.abs(l.from_s - b.from_s) < 1)),
        { exposure: b.exposure, from_s, to_s },
      ],
    }));
  const toggle = (whose: Whose, b: PlanBlock) =>
    changeLocks((now) => {
      const others = now[whose].filter((l) => !(l.exposure === b.exposure && l.from_s < b.to_s && l.to_s > b.from_s));
      const own = { exposure: b.exposure, from_s: b.from_s, to_s: b.to_s };
      return { ...now, [whose]: others.length < now[whose].length ? others : [...others, own] };
    });
  const unlockAll = () => changeLocks(() => NO_LOCKS);
  const file = async (format: "ics" | "csv" | "json", mime: string) => {
    if (!question) return;
    const answer = await fetch(`/api/v1/night/plan?format=${format}`, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify(question),
    });
    if (!answer.ok) toast.error("The plan could not be written; see the message above.");
    else saveFile(`${night?.first.target ?? "plan"} ${date}.${format}`, mime, await answer.text());
  };
  const record = async (planned: boolean) => {
    if (!campaign || !night) return;
    const shots = night.first.plan.totals
      .filter((t) => t.subs > 0)
      .map((t) => ({
        exposure: t.exposure,
        subs: t.subs,
        snr2: night.first.plan.blocks.filter((b) => b.exposure === t.exposure).reduce((s, b) => s + b.snr2, 0),
      }));
    try {
      await must(
        api.PUT("/api/v1/campaigns/{id}", {
          params: { path: { id: campaign.id }, header: { "If-Match": `"${campaign.revision}"` } },
          body: {
            ...campaign.campaign,
            nights: [...(campaign.campaign.nights ?? []), { date, shots, note: "", planned }],
          },
        }),
      );
      await client.invalidateQueries({ queryKey: ["campaigns"] });
      await client.invalidateQueries({ queryKey: ["campaign-state"] });
      toast.success(`${date} ${planned ? "planned" : "recorded"} in ${campaign.campaign.title}`);
    } catch (e) {
      toast.error((e as Error).message, { duration: 10_000 });
    }
  };
  if (list.data?.length === 0 && !campaign)
    return (
      <div className="mx-auto mt-24 max-w-md text-center">
        <h1 className="text-xl">A night needs a rig.</h1>
        <p className="mt-2 text-muted">
          Make a comparison on the bench first; its light paths are what a night is planned for.
        </p>
        <Link to="/bench" className="mt-4 inline-block text-salt underline underline-offset-4">
          Go to the bench
        </Link>
      </div>
    );
  const events = night?.first.view.events;
  const plan = night?.first.plan;
  const targets = night ? [night.first, ...(night.second ? [night.second] : [])] : [];
  const end = [...targets].reverse().find((t) => t.plan.finished_s != null)?.plan;
  const anything = targets.some((t) => t.plan.blocks.length > 0);
  const at = (t: number | null | undefined) => localTime(t, night?.clock ?? []);
  return (
    <div className="flex flex-col gap-3 px-5 py-3">
      <div className="flex flex-wrap items-end gap-2.5">
        <h1 className="mr-2 text-[1.3rem]">Night</h1>
        <div className="flex items-end gap-1 print:hidden">
          <IconButton label="Night before ([)" onClick={() => set("date", shiftDate(date, -1))}>
            <ChevronLeft size={16} aria-hidden />
          </IconButton>
          <label className="block text-[0.85rem] text-muted">
            Evening of
            <input
              type="date"
              value={date}
              onChange={(e) => e.target.value && set("date", e.target.value)}
              className="num block h-8 rounded-md border border-edge bg-well px-2 text-ink"
              data-testid="night-date"
            />
          </label>
          <IconButton label="Next night (])" onClick={() => set("date", shiftDate(date, 1))}>
            <ChevronRight size={16} aria-hidden />
          </IconButton>
        </div>
        <div className="w-36 print:hidden">
          <Select
            label="Site"
            value={site?.id ?? ""}
            options={sites.map((s) => ({ value: s.id, label: s.entry.name }))}
            onChange={(v) => set("site", v)}
            testId="night-site"
          />
        </div>
        <div className="w-56 print:hidden">
          <Select
            label="Campaign or comparison"
            value={campaign ? `c:${campaign.id}` : `b:${id}`}
            options={[
              ...(campaigns.data ?? []).map((c) => ({
                value: `c:${c.id}`,
                label: c.campaign.title,
                group: "Campaigns",
              })),
              ...(list.data ?? []).map((s) => ({ value: `b:${s.id}`, label: s.title, group: "Comparisons" })),
            ]}
            onChange={(v) =>
              edit((p) => {
                p.delete("row");
                if (v.startsWith("c:")) {
                  p.set("campaign", v.slice(2));
                  p.delete("bench");
                } else {
                  p.set("bench", v.slice(2));
                  p.delete("campaign");
                }
              })
            }
            testId="night-what"
          />
        </div>
        {!campaign && scenario && (
          <div className="w-52 print:hidden">
            <Select
              label="Light path"
              value={String(row)}
              options={scenario.contenders.map((c, i) => ({ value: String(i), label: `${mark(i).letter} ${c.name}` }))}
              onChange={(v) => set("row", v)}
              testId="night-row"
            />
          </div>
        )}
        <div className="w-40 print:hidden">
          <Select
            label="Plan for"
            value={mode}
            options={[
              { value: "balanced", label: "Balanced progress" },
              { value: "fixed", label: "A fixed list" },
              ...QUANTITIES.filter((q) => plan?.totals.some((t) => t.quantity === q)).map((q) => ({
                value: q,
                label: `Most ${QUANTITY_LABELS[q]}`,
              })),
            ]}
            onChange={(v) => set("mode", v === "balanced" ? null : v)}
            testId="night-mode"
          />
        </div>
        <div className="w-28 print:hidden">
          <NumberField
            label="Stop below"
            unit="°"
            value={above}
            min={0}
            max={85}
            onChange={(v) => set("above", v === 20 ? null : String(v))}
          />
        </div>
        <label className="block w-32 text-[0.85rem] text-muted print:hidden">
          Then (second target)
          <input
            value={second}
            placeholder="none"
            onChange={(e) => set("then", e.target.value || null)}
            aria-invalid={other.isError}
            className={`block h-8 w-full rounded-md border bg-well px-2 text-ink placeholder:text-muted ${other.isError ? "border-danger" : "border-edge"}`}
            data-testid="night-then"
          />
        </label>
        <OverheadsPopover
          overheads={overheads}
          set={setOverheads}
          list={mode === "fixed" ? (night?.filters ?? []) : []}
          minutes={minutes}
          setMinutes={setMinutes}
        />
        <div className="grow" />
        <div className="flex flex-wrap gap-1 print:hidden">
          {FILES.map(([format, label, mime]) => (
            <Button key={format} look="quiet" onClick={() => void file(format, mime)} disabled={!anything}>
              {format === "ics" && <CalendarPlus size={15} aria-hidden />}
              {label}
            </Button>
          ))}
          <Button look="quiet" onClick={() => window.print()}>
            <Printer size={15} aria-hidden /> Run sheet
          </Button>
          {campaign && (
            <>
              <Button onClick={() => void record(true)} disabled={!plan?.blocks.length}>
                Keep the plan
              </Button>
              <Button look="lit" onClick={() => void record(false)} disabled={!plan?.blocks.length}>
                Record as shot
              </Button>
            </>
          )}
        </div>
      </div>
      {problem && (
        <p role="alert" className="whitespace-pre-line text-danger">
          {problem.message}
        </p>
      )}
      {night && events && plan && (
        <>
          <p className="text-[0.95rem]" data-testid="night-summary">
            <b className="font-medium">{night.first.target}</b> from {site?.entry.name}, evening of {date}:{" "}
            {events.dusk_s == null && events.dark_h === 0
              ? "it does not get dark"
              : `dark ${at(events.dusk_s)} to ${at(events.dawn_s)} (${events.dark_h.toFixed(1)} h)`}
            , target above its limit {events.usable_h.toFixed(1)} h of that, {percent(events.moonless)} of it without
            the moon; moon {percent(events.moon_lit)} lit, rises {at(events.moonrise_s)}, sets {at(events.moonset_s)}.
          </p>
          <NightChart
            night={night}
            lock={lock}
            toggle={toggle}
            locked={locked}
            side={
              <>
                <Button look="quiet" className="print:hidden" onClick={undo} disabled={history.length === 0}>
                  Undo (u)
                </Button>
                <Button
                  look="quiet"
                  className="print:hidden"
                  onClick={unlockAll}
                  disabled={locked.first.length + locked.second.length === 0}
                  data-testid="replan"
                >
                  Plan it all anew
                </Button>
              </>
            }
          />
          <div className="grid grid-cols-[minmax(0,1.5fr)_minmax(0,1fr)] gap-3 max-lg:grid-cols-1 print:grid-cols-1">
            <section aria-label="Run sheet" className="rounded-xl bg-surface px-4 py-2.5">
              <h2 className="text-[1.02rem] font-medium">Run sheet</h2>
              <table className="mt-1 w-full text-[0.93rem]" data-testid="run-sheet">
                <tbody>
                  {plan.setup_from_s != null && (
                    <tr>
                      <td className="num w-28 py-0.5 align-top whitespace-nowrap">{at(plan.setup_from_s)}</td>
                      <td>Set up, cool, focus. {night.first.coordinates}.</td>
                    </tr>
                  )}
                  {targets.map((t, k) => (
                    <Fragment key={k}>
                      {k > 0 && t.plan.blocks.length > 0 && (
                        <tr className="border-t border-edge/60">
                          <td className="num py-0.5 align-top">{at(plan.last_sub_s)}</td>
                          <td>
                            Move to <b className="font-medium">{t.target}</b>, centre, focus. {t.coordinates}.
                          </td>
                        </tr>
                      )}
                      {t.plan.blocks.map((b) => (
                        <tr key={`${b.from_s}${b.filter}`} className="border-t border-edge/60">
                          <td className="num py-0.5 pr-2 align-top whitespace-nowrap">
                            {at(b.from_s)}–{at(b.to_s)}
                          </td>
                          <td>
                            <b className="font-medium">{b.filter}</b>, {b.subs} × {b.sub_s} s
                            {b.refocuses > 0 && `, refocus ${b.refocuses}×`}
                            {b.flip_s != null && `, flip at ${at(b.flip_s)}`}.{" "}
                            <span className="text-muted">
                              <Words text={b.why} />
                            </span>
                          </td>
                        </tr>
                      ))}
                    </Fragment>
                  ))}
                  {end && (
                    <tr className="border-t border-edge/60">
                      <td className="num py-0.5 align-top">{at(end.last_sub_s)}</td>
                      <td>Flats, then the end at {at(end.finished_s)}.</td>
                    </tr>
                  )}
                </tbody>
              </table>
              {!anything && <p className="text-muted">Nothing is planned.</p>}
              <ul className="mt-2 text-[0.88rem] text-amber">
                {night.cautions.map((c) => (
                  <li key={c}>{c}</li>
                ))}
              </ul>
            </section>
            <section aria-label="What it gives" className="rounded-xl bg-surface px-4 py-2.5">
              <h2 className="text-[1.02rem] font-medium">What it gives</h2>
              {targets.map((t, k) => (
                <div key={k} className={k > 0 ? "mt-3" : ""}>
                  {targets.length > 1 && <h3 className="mt-1 text-[0.95rem]">{t.target}</h3>}
                  <table
                    className="mt-1 w-full text-[0.93rem]"
                    data-testid={k === 0 ? "totals" : "totals-second"}
                    aria-label={`What ${t.target} gets`}
                  >
                    <thead className="text-left text-[0.82rem] text-muted">
                      <tr>
                        <th className="font-normal">Filter</th>
                        <th className="text-right font-normal">Exposed</th>
                        <th className="text-right font-normal">SNR</th>
                        <th className="text-right font-normal">Of its goal</th>
                      </tr>
                    </thead>
                    <tbody>
                      {t.plan.totals.map((total) => (
                        <tr key={total.exposure} className="border-t border-edge/60">
                          <td className="py-0.5">{total.filter}</td>
                          <td className="num text-right">{clock(total.exposed_s)}</td>
                          <td className="num text-right text-decide">{snr(total.snr)}</td>
                          <td className="num text-right">{percent(total.progress)}</td>
                        </tr>
                      ))}
                    </tbody>
                  </table>
                  <p className="mt-1 text-[0.88rem] text-muted">
                    {percent(t.plan.overhead)} of the time goes into overheads.
                  </p>
                  <ul className="mt-1 text-[0.92rem]">
                    {t.plan.notes.map((n) => (
                      <li key={n}>
                        <Words text={n} />
                      </li>
                    ))}
                  </ul>
                </div>
              ))}
            </section>
          </div>
        </>
      )}
    </div>
  );
}
