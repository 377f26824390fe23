import { useQuery, useQueryClient } from "@tanstack/react-query";
import { CalendarPlus, ChevronLeft, ChevronRight, Printer } from "lucide-react";
import { useEffect, useMemo, useState } from "react";
import { Link } from "react-router";
import { toast } from "sonner";
import {
  answerOf,
  api,
  type Contender,
  type LockedBlock,
  type NightQuestion,
  type PlanBlock,
  type StoredCampaign,
} from "@/api/client";
import { useLive } from "@/api/useLive";
import { Button, IconButton } from "@/parts/controls/Button";
import { NumberField } from "@/parts/controls/NumberField";
import { Select } from "@/parts/controls/Select";
import { localTime, ofNight, shiftDate, tonightDate, useSites } from "@/parts/evening";
import { percent } from "@/parts/format";
import { saveFile } from "@/parts/save";
import { useCommands } from "@/parts/shortcuts";
import { useStatusLine } from "@/parts/statusLine";
import { useParamsEdit } from "@/parts/useParams";
import { useTitle } from "@/parts/useTitle";
import { contenderMark, QUANTITIES, QUANTITY_LABELS } from "@/theme/marks";
import { NightDialog } from "@/views/campaign/NightDialog";
import { readMinutes, readOverheads, writeMinutes, writeOverheads } from "./address";
import { type Locks, moved, NO_LOCKS, readLocks, type Whose, writeLocks } from "./locks";
import { NightChart } from "./NightChart";
import { type Overheads, OverheadsPopover } from "./OverheadsPopover";
import { type CampaignNight, nightQuestion, ofPlan, withNight } from "./question";
import { Gives, RunSheet } from "./RunSheet";

const FILES = [
  ["ics", "iCalendar", "text/calendar"],
  ["csv", "CSV", "text/csv"],
  ["json", "JSON", "application/json"],
] as const;

/** What tells one rig's exposures from another's. */
const filtersOf = (c: Contender | undefined) => c?.exposures.map((e) => e.filter?.name ?? "").join("\n");

/** A night: what there is to see, what each filter gathers, and the plan. */
export function NightPage() {
  const [params, edit] = useParamsEdit();
  const setStatusLine = useStatusLine();
  const client = useQueryClient();
  const sites = useSites();
  const campaigns = useQuery({ queryKey: ["campaigns"], queryFn: () => answerOf(api.GET("/api/v1/campaigns")) });
  const list = useQuery({ queryKey: ["scenarios"], queryFn: () => answerOf(api.GET("/api/v1/scenarios")) });
  const campaign = campaigns.data?.find((c) => c.id === params.get("campaign"));
  const id = params.get("bench") ?? list.data?.[0]?.id ?? "";
  const stored = useQuery({
    queryKey: ["night-scenario", id],
    queryFn: () => answerOf(api.GET("/api/v1/scenarios/{id}", { params: { path: { id } } })),
    enabled: id !== "" && !campaign,
  });
  const set = (key: string, value: string | null) => edit((p) => (value ? p.set(key, value) : p.delete(key)));
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
  const above = Number(params.get("above") ?? 20) || 20;
  const put = (p: URLSearchParams, key: string, text: string | null) => (text ? p.set(key, text) : p.delete(key));
  // Locks belong to one night of one rig at one site.
  const where = [date, id, row, site?.id, campaign?.id].join(" ");
  // They stand in the address: a reload keeps them, and a link carries them.
  const written = params.get("locks");
  const locked = useMemo(() => readLocks(where, written), [where, written]);
  const [past, setPast] = useState<{ where: string; list: Locks[] }>({ where, list: [] });
  const history = past.where === where ? past.list : [];
  useTitle(scenario ? `Night of ${date}, ${scenario.target.name}` : "Night");
  const changeLocks = (how: (locked: Locks) => Locks) =>
    edit((p) => {
      // The address as it is by now: two quick moves both stay.
      const now = readLocks(where, p.get("locks"));
      setPast((was) => ({ where, list: [...(was.where === where ? was.list.slice(-30) : []), now] }));
      put(p, "locks", writeLocks(where, how(now)));
    });
  const overheads = useMemo(() => readOverheads(params.get("overheads")), [params]);
  // Each edit starts from the address as it is by then: two fields filled in quick turn both stay.
  const setOverheads = (some: Overheads) =>
    edit((p) => put(p, "overheads", writeOverheads({ ...readOverheads(p.get("overheads")), ...some })));
  const minutes = useMemo(() => readMinutes(params.get("minutes")), [params]);
  const setMinutes = (exposure: number, v: number) =>
    edit((p) => put(p, "minutes", writeMinutes({ ...readMinutes(p.get("minutes")), [exposure]: v })));
  const second = params.get("then") ?? "";
  const other = useQuery({
    queryKey: ["target", second],
    queryFn: () => answerOf(api.GET("/api/v1/targets/{name}", { params: { path: { name: second } } })),
    enabled: second.length > 2,
    retry: false,
  });
  const library = useQuery({
    queryKey: ["library"],
    queryFn: () => answerOf(api.GET("/api/v1/library")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  // A campaign of its own for the second target, through the same filters, holds where it is framed and what it has already.
  const secondCampaign = campaigns.data?.find(
    ({ id: own, campaign: c }) =>
      own !== campaign?.id &&
      c.scenario.target.name === other.data?.object.name &&
      filtersOf(c.scenario.contenders[c.contender]) === filtersOf(scenario?.contenders[row]),
  );
  const question = useMemo<NightQuestion | null>(
    () =>
      scenario && site
        ? nightQuestion({
            scenario,
            row,
            site,
            date,
            campaign: campaign?.campaign,
            mode,
            above,
            overheads,
            minutes,
            locked,
            second: second ? other.data : undefined,
            secondCampaign: second ? secondCampaign?.campaign : undefined,
            library: library.data,
          })
        : null,
    [
      scenario,
      site,
      row,
      date,
      mode,
      locked,
      campaign,
      above,
      second,
      other.data,
      library.data,
      overheads,
      minutes,
      secondCampaign,
    ],
  );
  const {
    answer: night,
    problem,
    againInS,
  } = useLive(question, async (body) => (body ? answerOf(api.POST("/api/v1/night", { body })) : undefined));
  useEffect(() => {
    setStatusLine(
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
    return () => setStatusLine(null);
  }, [setStatusLine, night]);
  const undo = () => {
    const last = history.at(-1);
    if (!last) return;
    edit((p) => put(p, "locks", writeLocks(where, last)));
    setPast({ where, list: history.slice(0, -1) });
  };
  useCommands([
    { id: "night-undo", label: "Undo the last change to the plan", keys: "u", run: undo },
    { id: "night-next", label: "Next night", keys: "]", run: () => set("date", shiftDate(date, 1)) },
    { id: "night-back", label: "Night before", keys: "[", run: () => set("date", shiftDate(date, -1)) },
  ]);
  const lock = (whose: Whose, was: LockedBlock, to: LockedBlock) => changeLocks((now) => moved(now, whose, was, to));
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
  // What each campaign gets of this night; recording asks for one after the other what was really taken.
  const parts =
    campaign && night
      ? [
          { into: campaign, of: night.first },
          ...(secondCampaign && night.second ? [{ into: secondCampaign, of: night.second }] : []),
        ].filter(({ of }) => of.plan.blocks.length > 0)
      : [];
  const [asking, setAsking] = useState<typeof parts>([]);
  const keep = async (into: StoredCampaign, what: CampaignNight): Promise<string | null> => {
    const nights = withNight(into.campaign.nights ?? [], what);
    if (!nights)
      return `${what.date} is recorded already in ${into.campaign.title}: change it there, or choose another evening.`;
    try {
      await answerOf(
        api.PUT("/api/v1/campaigns/{id}", {
          params: { path: { id: into.id }, header: { "If-Match": `"${into.revision}"` } },
          body: { ...into.campaign, nights },
        }),
      );
      toast.success(`${what.date} ${what.planned ? "planned" : "recorded"} in ${into.campaign.title}`);
      return null;
    } catch (e) {
      return (e as Error).message;
    } finally {
      await client.invalidateQueries({ queryKey: ["campaigns"] });
      await client.invalidateQueries({ queryKey: ["campaign-state"] });
    }
  };
  const keepPlan = async () => {
    for (const { into, of } of parts) {
      const wrong = await keep(into, ofPlan(date, of.plan, true));
      if (wrong) toast.error(wrong, { duration: 10_000 });
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
  const anything = night ? ofNight(night).anything : false;
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
                  p.delete("site");
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
              options={scenario.contenders.map((c, i) => ({
                value: String(i),
                label: `${contenderMark(i).letter} ${c.name}`,
              }))}
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
              <Button onClick={() => void keepPlan()} disabled={!plan?.blocks.length}>
                Keep the plan
              </Button>
              <Button look="lit" onClick={() => setAsking(parts)} disabled={!plan?.blocks.length}>
                Record as shot
              </Button>
            </>
          )}
        </div>
      </div>
      {problem && (
        <p role="alert" className="whitespace-pre-line text-danger">
          {problem.message}
          {againInS !== null && ` It is asked again in ${againInS} s.`}
        </p>
      )}
      {asking[0] && (
        <NightDialog
          key={asking[0].into.id}
          title={`What was taken for ${asking[0].into.campaign.title}`}
          night={ofPlan(date, asking[0].of.plan, false)}
          exposures={asking[0].into.campaign.scenario.contenders[asking[0].into.campaign.contender]?.exposures ?? []}
          perSub={undefined}
          save={async (what) => {
            const { into } = asking[0] as (typeof parts)[number];
            const wrong = await keep(into, what);
            if (wrong === null) setAsking(asking.slice(1));
            return wrong;
          }}
          close={() => setAsking(asking.slice(1))}
        />
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
            <RunSheet night={night} />
            <Gives night={night} />
          </div>
        </>
      )}
    </div>
  );
}
