import type { Campaign, CampaignState } from "@/api/client";
import { NumberField } from "@/parts/controls/NumberField";
import { arcsec, many, percent, snr } from "@/parts/format";
import { range } from "@/parts/range";
import { hue } from "@/theme/marks";
import { Crystal } from "./Crystal";

type Props = { state: CampaignState | undefined; change: (how: (c: Campaign) => Campaign) => Promise<unknown> };

/** Every goal as a crystal that fills, what comes next, and when all may be full. */
export function Goals({ state: s, change }: Props) {
  const several = (exposure: number) => (s?.goals.filter((g) => g.exposure === exposure).length ?? 0) > 1;
  const setSnr = (at: number, snr: number) =>
    void change((now) => ({ ...now, goals: now.goals.map((x, i) => (i === at ? { ...x, snr } : x)) }));
  return (
    <section aria-label="Goals" className="rounded-xl bg-surface px-5 py-3">
      <div className="flex flex-wrap gap-x-10 gap-y-4">
        {s?.goals.map((g, at) => (
          <div key={`${g.exposure}${g.quantity}`} className="flex items-center gap-3">
            <Crystal
              progress={g.progress}
              colour={hue(g.quantity ?? "continuum")}
              label={several(g.exposure) && g.line ? `${g.filter}, ${g.line}` : g.filter}
            />
            <div>
              <div className="font-medium">{g.filter}</div>
              <div className="text-[0.88rem] text-muted">{g.line ?? ""}</div>
              <div className="num text-[1.4rem] text-decide">{percent(g.progress)}</div>
              <div className="num text-[0.9rem]">
                {g.goal_arcsec == null
                  ? `SNR ${snr(g.snr)} of ${snr(g.goal_snr)}`
                  : `${g.clean_arcsec == null ? "not begun" : `clean at ${arcsec(g.clean_arcsec)}`}, wanted ${arcsec(g.goal_arcsec)}`}
                , {many(g.subs)}
              </div>
              <div className="mt-1 w-28">
                <GoalField goal={g} set={(v) => setSnr(at, v)} />
              </div>
            </div>
          </div>
        ))}
      </div>
      <p className="mt-3 text-[1.02rem]" data-testid="campaign-next">
        {s?.next}
      </p>
      <p className="text-[0.95rem]" data-testid="campaign-forecast">
        {s?.finish ?? "…"}
      </p>
      {s?.pace && (
        <p className="text-[0.95rem] text-muted" data-testid="campaign-pace">
          {s.pace}
        </p>
      )}
    </section>
  );
}

/** A goal as it is told: the detail at which its part shall be clean; a signal to noise where it is one of stars. */
function GoalField({ goal: g, set }: { goal: CampaignState["goals"][number]; set: (snr: number) => void }) {
  const product = g.snr_times_arcsec;
  if (product == null)
    return <NumberField label="Goal SNR" value={g.goal_snr} {...range("CampaignGoal", "snr")} onChange={set} />;
  const { min, max } = range("CampaignGoal", "snr");
  return (
    <NumberField
      label="Clean at"
      unit="″"
      value={Number((product / g.goal_snr).toPrecision(3))}
      min={product / max}
      max={product / min}
      onChange={(side) => set(product / side)}
    />
  );
}
