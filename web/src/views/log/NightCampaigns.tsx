import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Check } from "lucide-react";
import { Link } from "react-router";
import { answerOf, api, type Campaign } from "@/api/client";
import { type NightOffered, type NightOfLog, nightCampaignsQuery, useExplainName } from "@/api/log";
import { useRecordNight, useSaveCampaign } from "@/api/mutations";
import { campaignsQuery, scenariosQuery } from "@/api/queries";
import { Button } from "@/parts/controls/Button";
import { Select } from "@/parts/controls/Select";
import { fail } from "@/parts/fail";
import { clock, fixed } from "@/parts/format";
import { useOfferUndo } from "@/parts/useOfferUndo";

type Brought = NightOffered["brought"][number];

/** "36 of 40 kept, 1 h 12 min, worth 1 h 2 min". */
function Line({ of }: { of: Brought }) {
  const { shot, kept_s, worth_s, transparency, noise } = of.accrued;
  const why = [
    transparency != null && `transparency ${fixed(transparency, 2)}`,
    noise != null && `variance ${fixed(noise, 2)} × planned`,
  ].filter(Boolean);
  return (
    <li>
      <b className="font-semibold">{of.filter}</b>: {shot.subs} of {of.taken} kept, {clock(kept_s)}, worth{" "}
      <b className="font-semibold">{clock(worth_s)}</b> under the planned sky
      {why.length > 0 && <span className="text-muted"> · {why.join(", ")}</span>}
    </li>
  );
}

type UnknownProps = { words: string; label: string; names: readonly string[]; choose: (name: string) => void };

/** A name of the headers that the campaign does not know, and what it may mean. */
function Unknown({ words, label, names, choose }: UnknownProps) {
  return (
    <div className="mt-1 flex flex-wrap items-center gap-2">
      <span>{words}</span>
      <div className="w-56">
        <Select
          label={label}
          hideLabel
          value=""
          placeholder="it means…"
          options={names.map((n) => ({ value: n, label: n }))}
          onChange={choose}
        />
      </div>
    </div>
  );
}

type Count = NightOffered["calibration"][number];

/** "Darks of 120 s at -10 °C: 4 of 50 that the budget asks. Flats of every filter." */
function calibrationWords(all: readonly Count[]): string {
  const dark = (c: Count) => {
    const cold = c.sensor_c == null ? "" : ` at ${fixed(c.sensor_c, 0)} °C`;
    return `darks of ${c.exposure_s ?? "?"} s${cold}: ${c.taken} of the ${c.asked ?? "?"} that the budget asks`;
  };
  const missing = all.filter((c) => c.type === "flat" && c.taken === 0).map((c) => c.filter ?? "no filter");
  const flats = missing.length > 0 ? `no flats of ${missing.join("; ")}` : "flats of every filter";
  const said = [...all.filter((c) => c.type === "dark").map(dark), flats].join("; ");
  return `${said.charAt(0).toUpperCase()}${said.slice(1)}.`;
}

/** Where the frames look, what the catalogue's stars weigh, and calibration that fits. */
function Told({ of, reframe }: { of: NightOffered; reframe: () => void }) {
  return (
    <div className="mt-1.5 flex flex-col gap-0.5 text-muted">
      {of.place.told && (
        <p className={of.place.off ? "text-warn" : undefined} data-testid="night-place">
          {of.place.told}{" "}
          {of.place.off && (
            <Button look="quiet" onClick={reframe}>
              Frame the campaign so
            </Button>
          )}
        </p>
      )}
      {of.place.filters.map((f) => (
        <p key={f.filter}>{f.told}</p>
      ))}
      <p data-testid="night-calibration">{calibrationWords(of.calibration)}</p>
    </div>
  );
}

/** One campaign, what the night brings to it, and the way to count that. */
function Offer({ of }: { of: NightOffered }) {
  const [record, saved, explain, offerUndo] = [useRecordNight(), useSaveCampaign(), useExplainName(), useOfferUndo()];
  const client = useQueryClient();
  // What stands here hangs on the campaign: it is asked for anew.
  const save = (how: (c: Campaign) => Campaign) =>
    saved({ id: of.campaign, how }).then(() => client.invalidateQueries({ queryKey: ["log", "session"] }));
  const counting = async () => {
    const into = await answerOf(api.GET("/api/v1/campaigns/{id}", { params: { path: { id: of.campaign } } }));
    const before = (into.campaign.nights ?? []).filter((n) => n.date === of.night.date);
    const done = record({
      into,
      night: of.night,
      path: of.path ?? undefined,
      insteadOf: of.recorded ?? undefined,
    });
    await done;
    const back = () =>
      save((c) => {
        const others = (c.nights ?? []).filter((n) => n.date !== of.night.date);
        return { ...c, nights: [...others, ...before].sort((a, b) => a.date.localeCompare(b.date)) };
      });
    offerUndo(`${of.night.date} counted in ${of.title}`, back);
  };
  const reframe = async () => {
    const { framing } = of.place;
    if (!framing) return;
    const into = await answerOf(api.GET("/api/v1/campaigns/{id}", { params: { path: { id: of.campaign } } }));
    const was = into.campaign.framing;
    const framed = (framing: typeof was) => save((c) => ({ ...c, framing }));
    await framed(framing);
    offerUndo(`${of.title} is framed as this night was`, () => framed(was));
  };
  return (
    <div className="mt-2 border-t border-edge/60 pt-2 first:border-t-0 first:pt-0" data-testid="night-campaign">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <h3 className="min-w-0 grow font-medium">
          <Link to={`/campaign?id=${of.campaign}`} className="inline-flex min-h-8 items-center underline">
            {of.title}
          </Link>
        </h3>
        {of.counted ? (
          <p className="inline-flex items-center gap-1.5 text-muted">
            <Check size={14} aria-hidden /> Counted as it is kept now
          </p>
        ) : (
          of.brought.length > 0 && (
            <Button look="lit" onClick={() => void counting().catch(fail)}>
              {of.recorded ? "Count it again" : "Count it"}
            </Button>
          )
        )}
      </div>
      {of.recorded && !of.counted && (
        <p className="text-warn">
          The campaign has other figures for this night: by hand, or from before a change here.
        </p>
      )}
      <ul className="mt-0.5 flex flex-col gap-0.5">
        {of.brought.map((b) => (
          <Line key={b.filter} of={b} />
        ))}
      </ul>
      {of.brought.length === 0 && (
        <p className="text-muted">None of its kept frames is through a filter of this campaign.</p>
      )}
      {of.told && (
        <p className="mt-0.5" data-testid="night-brought">
          {of.told}
        </p>
      )}
      <Told of={of} reframe={() => void reframe().catch(fail)} />
      {of.unknown.map((u) => (
        <Unknown
          key={u.said}
          words={`${u.frames} frames name ${u.said ? `“${u.said}”` : "no filter"}, which is none of this campaign's:`}
          label={`What ${u.said || "no filter"} means`}
          names={of.filters}
          choose={(means) => void explain({ kind: "filter", said: u.said, means }).catch(fail)}
        />
      ))}
      {of.camera_unknown != null && (
        <Unknown
          words={`The headers' camera ${of.camera_unknown ? `“${of.camera_unknown}”` : "without a name"} is none of this campaign's:`}
          label="What the camera's name means"
          names={of.cameras}
          choose={(means) => void explain({ kind: "camera", said: of.camera_unknown ?? "", means }).catch(fail)}
        />
      )}
    </div>
  );
}

/** What the night brings to the campaigns that its frames are of. */
export function NightCampaigns({ night }: { night: NightOfLog }) {
  const offers = useQuery(nightCampaignsQuery(night.session.id));
  // Counting may be taken back: that changes a campaign from how it is known here.
  useQuery(campaignsQuery);
  const comparisons = useQuery(scenariosQuery);
  if (!offers.data) return null;
  const { objects } = night.session;
  const from = comparisons.data?.find((s) => objects !== "" && s.title.includes(objects));
  return (
    <section aria-label="Campaigns" className="rounded-xl bg-surface px-4 py-3">
      {offers.data.map((o) => (
        <Offer key={o.campaign} of={o} />
      ))}
      {offers.data.length === 0 && (
        <p className="text-muted">
          No campaign is of {objects || "what was shot"}.{" "}
          <Link to={from ? `/campaign?from=${from.id}` : "/campaign"} className="underline">
            Begin one
          </Link>
          , and this night counts in it.
        </p>
      )}
    </section>
  );
}
