import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Pencil, Plus, Trash2 } from "lucide-react";
import { useRef, useState } from "react";
import { Link } from "react-router";
import { toast } from "sonner";
import { answerOf, api, type Campaign, type StoredCampaign } from "@/api/client";
import { Button, IconButton } from "@/parts/controls/Button";
import { NumberField } from "@/parts/controls/NumberField";
import { Select } from "@/parts/controls/Select";
import { tonightDate, useSites } from "@/parts/evening";
import { many, percent, snr } from "@/parts/format";
import { useOfferUndo } from "@/parts/useOfferUndo";
import { useParamsEdit } from "@/parts/useParams";
import { useTitle } from "@/parts/useTitle";
import { contenderMark, hue, QUANTITY_LABELS } from "@/theme/marks";
import { Crystal } from "./Crystal";
import type { CampaignNight } from "./counted";
import { NightDialog } from "./NightDialog";

/** Campaigns: goals that fill, nights that were shot, and when it will be finished. */
export function CampaignPage() {
  const [params, edit] = useParamsEdit();
  const client = useQueryClient();
  const campaigns = useQuery({ queryKey: ["campaigns"], queryFn: () => answerOf(api.GET("/api/v1/campaigns")) });
  const list = campaigns.data ?? [];
  const chosen = list.find((c) => c.id === params.get("id")) ?? list[0];
  useTitle(chosen?.campaign.title ?? "Campaigns");
  // The list first; where each campaign stands may follow when it is known.
  const refresh = () => {
    void client.invalidateQueries({ queryKey: ["campaign-state"] });
    return client.invalidateQueries({ queryKey: ["campaigns"] });
  };
  const offerUndo = useOfferUndo();
  // One save after another, each made from what the one before it left: quick typing loses nothing.
  const saving = useRef(Promise.resolve());
  const change = (id: string, how: (c: Campaign) => Campaign) => {
    saving.current = saving.current.then(async () => {
      const now = client.getQueryData<StoredCampaign[]>(["campaigns"])?.find((c) => c.id === id);
      if (!now) return;
      try {
        const stored = await answerOf(
          api.PUT("/api/v1/campaigns/{id}", {
            params: { path: { id }, header: { "If-Match": `"${now.revision}"` } },
            body: how(now.campaign),
          }),
        );
        client.setQueryData<StoredCampaign[]>(["campaigns"], (was) => was?.map((c) => (c.id === id ? stored : c)));
      } catch (e) {
        toast.error((e as Error).message, { duration: 10_000 });
        await refresh();
      }
    });
    return saving.current;
  };
  const remove = async (c: StoredCampaign) => {
    try {
      await answerOf(api.DELETE("/api/v1/campaigns/{id}", { params: { path: { id: c.id } } }));
      offerUndo(`${c.campaign.title} deleted`, () =>
        answerOf(api.POST("/api/v1/campaigns/{id}/restore", { params: { path: { id: c.id } } })).then(refresh),
      );
      await refresh();
    } catch (e) {
      toast.error((e as Error).message, { duration: 10_000 });
    }
  };
  return (
    <div className="grid grid-cols-[16rem_minmax(0,1fr)] gap-4 px-5 py-3 max-lg:grid-cols-[minmax(0,1fr)]">
      <div>
        <h1 className="mb-2 text-[1.3rem]">Campaigns</h1>
        <ul className="flex flex-col gap-0.5">
          {list.map((c) => (
            <li key={c.id}>
              <button
                type="button"
                aria-current={c.id === chosen?.id}
                onClick={() => edit((p) => p.set("id", c.id))}
                className={`w-full truncate rounded-lg px-2.5 py-1 text-left ${c.id === chosen?.id ? "bg-raised" : "hover:bg-surface"}`}
              >
                {c.campaign.title}
                <span className="block text-[0.82rem] text-muted">
                  {c.campaign.nights?.length ?? 0} nights · {c.campaign.scenario.target.name}
                </span>
              </button>
            </li>
          ))}
        </ul>
        {campaigns.data && list.length === 0 && (
          <p className="mb-2 text-muted">
            A campaign is one target over many nights. Begin one from a comparison: its light path, framing and goals
            stay the same until the goals are reached.
          </p>
        )}
        <Begin
          done={async (id) => {
            edit((p) => p.set("id", id));
            await refresh();
          }}
        />
      </div>
      {chosen && (
        <Detail
          key={chosen.id}
          stored={chosen}
          change={(how) => change(chosen.id, how)}
          remove={remove}
          offerUndo={offerUndo}
        />
      )}
    </div>
  );
}

function Begin({ done }: { done: (id: string) => Promise<void> }) {
  const [params] = useParamsEdit();
  const scenarios = useQuery({ queryKey: ["scenarios"], queryFn: () => answerOf(api.GET("/api/v1/scenarios")) });
  const sites = useSites();
  const [from, setFrom] = useState(params.get("from") ?? "");
  const [row, setRow] = useState(Number(params.get("row") ?? 0) || 0);
  const chosen = useQuery({
    queryKey: ["scenario-to-begin", from],
    queryFn: () => answerOf(api.GET("/api/v1/scenarios/{id}", { params: { path: { id: from } } })),
    enabled: from !== "",
  });
  const paths = chosen.data?.scenario.contenders ?? [];
  const path = Math.min(row, Math.max(0, paths.length - 1));
  const [site, setSite] = useState("");
  const begin = async () => {
    const scenario = chosen.data?.scenario;
    if (!scenario) return;
    try {
      const object = await answerOf(
        api.GET("/api/v1/targets/{name}", { params: { path: { name: scenario.target.name } } }),
      )
        .then((t) => t.object)
        .catch(() => null);
      if (!object) {
        toast.error(
          `The catalogue holds no "${scenario.target.name}": give the comparison's target a catalogue name first.`,
        );
        return;
      }
      // Every line that somebody wants of a filter is a goal of its own: a dual band has two.
      const decided = await answerOf(api.POST("/api/v1/decisions", { body: scenario }));
      const goals = (decided.paths[path]?.time.parts ?? []).flatMap((p, exposure) => {
        const lines = p.served.filter((v) => v.wanted).map((v) => v.quantity);
        return (lines.length ? lines : [null]).map((quantity) => ({
          exposure,
          quantity,
          snr: scenario.goal_snr ?? 20,
        }));
      });
      const made = await answerOf(
        api.POST("/api/v1/campaigns", {
          body: {
            title: `${scenario.target.name} campaign`,
            scenario,
            contender: path,
            site: site || (sites[0]?.id ?? ""),
            framing: { ra_deg: object.ra_deg, dec_deg: object.dec_deg, position_angle_deg: 0 },
            goals,
            clear_share: 0.25,
            nights: [],
          },
        }),
      );
      await done(made.id);
      toast.success("Begun. Plan its first night from here.");
    } catch (e) {
      toast.error((e as Error).message, { duration: 10_000 });
    }
  };
  return (
    <div className="mt-3 flex flex-col gap-2 rounded-xl bg-surface p-3">
      <Select
        label="Begin one from"
        value={from}
        placeholder="a comparison…"
        options={(scenarios.data ?? []).map((s) => ({ value: s.id, label: s.title }))}
        onChange={(v) => {
          setFrom(v);
          setRow(0);
        }}
        testId="begin-from"
      />
      {paths.length > 0 && (
        <>
          <Select
            label="With the light path"
            value={String(path)}
            options={paths.map((c, i) => ({ value: String(i), label: `${contenderMark(i).letter} ${c.name}` }))}
            onChange={(v) => setRow(Number(v))}
            testId="begin-path"
          />
          <Select
            label="From the site"
            value={site || (sites[0]?.id ?? "")}
            options={sites.map((x) => ({ value: x.id, label: x.entry.name }))}
            onChange={setSite}
            testId="begin-site"
          />
        </>
      )}
      <Button look="lit" disabled={!chosen.data} onClick={() => void begin()}>
        Begin
      </Button>
    </div>
  );
}

type DetailProps = {
  stored: StoredCampaign;
  change: (how: (c: Campaign) => Campaign) => Promise<void>;
  offerUndo: ReturnType<typeof useOfferUndo>;
  remove: (c: StoredCampaign) => Promise<void>;
};

function Detail({ stored, change, remove, offerUndo }: DetailProps) {
  const c = stored.campaign;
  const sites = useSites();
  const date = tonightDate(sites.find((x) => x.id === c.site)?.site);
  const state = useQuery({
    queryKey: ["campaign-state", stored.id, stored.revision, date],
    queryFn: () =>
      answerOf(api.GET("/api/v1/campaigns/{id}/state", { params: { path: { id: stored.id }, query: { date } } })),
    placeholderData: (was) => was,
  });
  const [pasted, setPasted] = useState("");
  const s = state.data;
  const [editing, setEditing] = useState<CampaignNight | null>(null);
  const several = (exposure: number) => (s?.goals.filter((g) => g.exposure === exposure).length ?? 0) > 1;
  const rig = c.scenario.contenders[c.contender];
  const edit = (some: Partial<Campaign>) => void change((now) => ({ ...now, ...some }));
  const takeOut = async (night: CampaignNight) => {
    const key = JSON.stringify(night);
    await change((now) => ({ ...now, nights: now.nights?.filter((n) => JSON.stringify(n) !== key) }));
    offerUndo(`${night.date} taken out of ${c.title}`, () =>
      change((now) => ({
        ...now,
        nights: [...(now.nights ?? []), night].sort((a, b) => a.date.localeCompare(b.date)),
      })),
    );
  };
  /** A night in the place of another, or a new one; an evening counts once. */
  const keepNight = async (was: CampaignNight, night: CampaignNight): Promise<string | null> => {
    const key = JSON.stringify(was);
    const others = (c.nights ?? []).filter((n) => JSON.stringify(n) !== key);
    if (others.some((n) => n.date === night.date && !n.planned))
      return `${night.date} is recorded already: edit it instead.`;
    await change((now) => ({
      ...now,
      nights: [...(now.nights ?? []).filter((n) => JSON.stringify(n) !== key && n.date !== night.date), night].sort(
        (a, b) => a.date.localeCompare(b.date),
      ),
    }));
    setEditing(null);
    return null;
  };
  const paste = async () => {
    try {
      const at = await answerOf(api.GET("/api/v1/coordinates", { params: { query: { text: pasted } } }));
      edit({ framing: { ...c.framing, ra_deg: at.ra_deg, dec_deg: at.dec_deg } });
      setPasted("");
    } catch (e) {
      toast.error((e as Error).message, { duration: 10_000 });
    }
  };
  const sexagesimal = useQuery({
    queryKey: ["coordinates", c.framing.ra_deg, c.framing.dec_deg],
    queryFn: () =>
      answerOf(
        api.GET("/api/v1/coordinates", { params: { query: { text: `${c.framing.ra_deg} ${c.framing.dec_deg}` } } }),
      ),
  });
  return (
    <div className="flex min-w-0 flex-col gap-3">
      <div className="flex flex-wrap items-center gap-2">
        <input
          aria-label="Title of the campaign"
          defaultValue={c.title}
          maxLength={200}
          onBlur={(e) => e.target.value.trim() && e.target.value !== c.title && edit({ title: e.target.value })}
          className="min-w-40 grow rounded bg-transparent px-1 text-[1.3rem] font-medium hover:bg-surface focus:bg-well"
        />
        <Link
          to={`/night?campaign=${stored.id}`}
          className="inline-flex h-8 items-center rounded-md bg-salt px-2.5 font-semibold text-on-salt hover:brightness-110"
        >
          Plan tonight
        </Link>
        <IconButton label="Delete this campaign" onClick={() => void remove(stored)}>
          <Trash2 size={16} aria-hidden />
        </IconButton>
      </div>
      <section aria-label="Goals" className="rounded-xl bg-surface px-5 py-3">
        <div className="flex flex-wrap gap-x-10 gap-y-4">
          {s?.goals.map((g, at) => (
            <div key={`${g.exposure}${g.quantity}`} className="flex items-center gap-3">
              <Crystal
                progress={g.progress}
                colour={hue(g.quantity ?? "continuum")}
                label={several(g.exposure) && g.quantity ? `${g.filter}, ${QUANTITY_LABELS[g.quantity]}` : g.filter}
              />
              <div>
                <div className="font-medium">{g.filter}</div>
                <div className="text-[0.88rem] text-muted">{g.quantity ? QUANTITY_LABELS[g.quantity] : ""}</div>
                <div className="num text-[1.4rem] text-decide">{percent(g.progress)}</div>
                <div className="num text-[0.9rem]">
                  SNR {snr(g.snr)} of {g.goal_snr}, {many(g.subs)}
                </div>
                <div className="mt-1 w-28">
                  <NumberField
                    label="Goal SNR"
                    value={g.goal_snr}
                    min={0.1}
                    max={1000}
                    onChange={(v) =>
                      void change((now) => ({
                        ...now,
                        goals: now.goals.map((x, i) => (i === at ? { ...x, snr: v } : x)),
                      }))
                    }
                  />
                </div>
              </div>
            </div>
          ))}
        </div>
        <p className="mt-3 text-[1.02rem]" data-testid="campaign-next">
          {s?.next}
        </p>
        <p className="text-[0.95rem]" data-testid="campaign-forecast">
          {s?.forecast.median_nights === 0
            ? "It is finished."
            : s?.median_date
              ? `Likely finished by ${s.median_date} (${s.forecast.clear_nights} clear nights); nine runs in ten by ${s.ninety_date ?? "later than a year from now"}.`
              : s
                ? "Not finished within a year at this share of clear nights: lower a goal, or take a faster path."
                : "…"}
        </p>
      </section>
      <div className="grid grid-cols-2 gap-3 max-xl:grid-cols-1">
        <section aria-label="What stays the same" className="rounded-xl bg-surface px-4 py-3">
          <h2 className="mb-1 text-[1.02rem] font-medium">What stays the same</h2>
          <dl className="grid grid-cols-[8rem_minmax(0,1fr)] gap-y-1 text-[0.95rem]">
            <dt className="text-muted">Framing</dt>
            <dd className="num" data-testid="framing">
              {sexagesimal.data ? `${sexagesimal.data.ra} ${sexagesimal.data.dec}` : ""}
              <span className="block text-muted">
                {c.framing.ra_deg.toFixed(5)}° {c.framing.dec_deg.toFixed(5)}°
              </span>
            </dd>
            <dt className="text-muted">Light path</dt>
            <dd>
              {contenderMark(c.contender).letter} {rig?.name}
            </dd>
            <dt className="text-muted">Gain, temperature</dt>
            <dd className="num">
              {rig?.gain}, {rig?.sensor_temperature_c} °C
            </dd>
            <dt className="text-muted">Subs</dt>
            <dd>{rig?.exposures.map((e) => `${e.filter?.name ?? "no filter"} ${e.sub_s} s`).join(", ")}</dd>
          </dl>
          <div className="mt-2 flex items-end gap-2">
            <label className="min-w-0 grow text-[0.85rem] text-muted">
              Paste other coordinates, in any usual form
              <input
                value={pasted}
                onChange={(e) => setPasted(e.target.value)}
                onKeyDown={(e) => e.key === "Enter" && void paste()}
                placeholder="06 17 13 +22 31 05"
                className="num block h-8 w-full rounded-md border border-edge bg-well px-2 text-ink placeholder:text-muted"
                data-testid="paste-coordinates"
              />
            </label>
            <Button disabled={!pasted} onClick={() => void paste()}>
              Take
            </Button>
          </div>
          <div className="mt-2 grid grid-cols-3 gap-2">
            <NumberField
              label="Position angle"
              unit="°"
              value={c.framing.position_angle_deg ?? 0}
              min={-360}
              max={360}
              onChange={(v) => void change((now) => ({ ...now, framing: { ...now.framing, position_angle_deg: v } }))}
            />
            <NumberField
              label="Clear nights"
              unit="%"
              value={Math.round(c.clear_share * 100)}
              min={1}
              max={100}
              onChange={(v) => edit({ clear_share: v / 100 })}
              testId="clear-share"
            />
            <Select
              label="Site"
              value={c.site}
              options={sites.map((x) => ({ value: x.id, label: x.entry.name }))}
              onChange={(v) => edit({ site: v })}
            />
          </div>
        </section>
        <section aria-label="Nights" className="rounded-xl bg-surface px-4 py-3">
          <div className="flex items-center">
            <h2 className="mb-1 grow text-[1.02rem] font-medium">Nights</h2>
            <Button
              look="quiet"
              onClick={() => setEditing({ date, shots: [], note: "", planned: false })}
              data-testid="add-night"
            >
              <Plus size={14} aria-hidden /> A night by hand
            </Button>
          </div>
          {editing && rig && (
            <NightDialog
              title={`What was taken for ${c.title}`}
              night={editing}
              exposures={rig.exposures}
              perSub={s?.per_sub}
              close={() => setEditing(null)}
              save={(night) => keepNight(editing, night)}
            />
          )}
          <table className="w-full text-[0.93rem]" data-testid="nights">
            <tbody>
              {(c.nights ?? []).map((n, i) => (
                <tr key={`${n.date}${i}`} className="border-t border-edge/60 first:border-t-0">
                  <td className="num py-0.5 align-top whitespace-nowrap">{n.date}</td>
                  <td className="px-3">
                    {n.planned && <b className="font-medium text-amber">planned </b>}
                    {n.shots
                      .map((x) => `${rig?.exposures[x.exposure]?.filter?.name ?? "no filter"}: ${many(x.subs)}`)
                      .join(", ")}
                    {n.note && <span className="block text-muted">{n.note}</span>}
                  </td>
                  <td className="text-right whitespace-nowrap">
                    {n.planned && (
                      <Button look="quiet" onClick={() => setEditing(n)}>
                        Shot
                      </Button>
                    )}
                    <IconButton label={`Edit ${n.date}`} onClick={() => setEditing(n)}>
                      <Pencil size={14} aria-hidden />
                    </IconButton>
                    <IconButton label={`Take out ${n.date}`} onClick={() => void takeOut(n)}>
                      <Trash2 size={14} aria-hidden />
                    </IconButton>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {(c.nights ?? []).length === 0 && (
            <p className="text-muted">None yet. Plan tonight, and record what was shot from the night's page.</p>
          )}
        </section>
      </div>
    </div>
  );
}
