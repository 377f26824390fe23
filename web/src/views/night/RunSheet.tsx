import { Fragment } from "react";
import type { NightAnswer, PlanBlock, StoredCampaign, TargetNight } from "@/api/client";
import { localTime, ofNight } from "@/parts/evening";
import { arcsec, clock, percent, snr } from "@/parts/format";
import { Words } from "@/parts/Words";
import { Finish } from "./KeptPlan";
import type { TrialBlock } from "./useTrialBlock";

/** What to do when, and why. */
export function RunSheet({ night, trial }: { night: NightAnswer; trial: TrialBlock | null }) {
  const { targets, end, anything } = ofNight(night);
  const setUp = targets.find((t) => t.plan.setup_from_s != null);
  const at = (t: number | null | undefined) => localTime(t, night.clock);
  const rows = inTime(targets);
  const before = setUp && trial && trial.from_s < (setUp.plan.setup_from_s ?? 0);
  const trialAt = trial && !before ? rows.filter((r) => r.block.from_s < trial.from_s).length : -1;
  return (
    <section aria-label="Run sheet" className="rounded-xl bg-surface px-4 py-2.5">
      <h2 className="text-[1.02rem] font-medium">Run sheet</h2>
      <table className="mt-1 w-full text-[0.93rem]" data-testid="run-sheet">
        <tbody>
          {trial && before && <TrialRow trial={trial} at={at} />}
          {setUp && (
            <tr className={before ? "border-t border-edge/60" : ""}>
              <td className="num w-28 py-0.5 align-top whitespace-nowrap">{at(setUp.plan.setup_from_s)}</td>
              <td>Set up, cool, focus. {setUp.coordinates}.</td>
            </tr>
          )}
          {rows.map(({ of, block: b, moved, alongside }, i) => (
            <Fragment key={`${of.target}${b.from_s}${b.filter}`}>
              {trial && i === trialAt && <TrialRow trial={trial} at={at} />}
              {moved && (
                <tr className="border-t border-edge/60">
                  <td className="num py-0.5 align-top">{at(moved.at_s)}</td>
                  <td>
                    {moved.own ? "Set up" : "Move to"} <b className="font-medium">{of.target}</b>
                    {moved.own ? " on its own mount" : ""}, centre, focus. {of.coordinates}.
                  </td>
                </tr>
              )}
              <tr className="border-t border-edge/60">
                <td className="num py-0.5 pr-2 align-top whitespace-nowrap">
                  {at(b.from_s)}–{at(b.to_s)}
                </td>
                <td>
                  <b className="font-medium">{b.filter}</b>
                  {alongside && ` (${of.target})`}, {b.subs} × {b.sub_s} s
                  {b.refocuses > 0 && `, refocus ${b.refocuses}×`}
                  {b.flip_s != null && `, flip at ${at(b.flip_s)}`}.{" "}
                  <span className="text-muted">
                    <Words text={b.why} />
                  </span>
                </td>
              </tr>
            </Fragment>
          ))}
          {trial && trialAt === rows.length && <TrialRow trial={trial} at={at} />}
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
  );
}

function TrialRow({ trial, at }: { trial: TrialBlock; at: (t: number) => string }) {
  return (
    <tr className="border-t border-edge/60">
      <td className="num py-0.5 pr-2 align-top whitespace-nowrap">
        {at(trial.from_s)}–{at(trial.to_s)}
      </td>
      <td>
        <b className="font-medium">Trial</b> {trial.title}, by its own sheet.
      </td>
    </tr>
  );
}

type Row = {
  of: TargetNight;
  block: PlanBlock;
  /** Where the telescope is turned to this target for the block: when, and whether on a mount of its own. */
  moved: { at_s: number; own: boolean } | null;
  /** Another target is shot at the same time. */
  alongside: boolean;
};

/** The blocks of all targets by their beginnings, and where the telescope moves. */
function inTime(targets: TargetNight[]): Row[] {
  const own = (t: TargetNight) => t !== targets[0] && t.change.kind === "alongside";
  const all = targets.flatMap((of) => of.plan.blocks.map((block) => ({ of, block })));
  all.sort((a, b) => a.block.from_s - b.block.from_s);
  const anyAlongside = targets.some(own);
  return all.map(({ of, block }, i) => {
    const before = all
      .slice(0, i)
      .filter((o) => own(o.of) === own(of) && (!own(of) || o.of === of))
      .at(-1);
    const first = before === undefined && i > 0 && own(of);
    const turned = before !== undefined && before.of !== of;
    const at_s = first ? (of.plan.setup_from_s ?? block.from_s) : (before?.block.to_s ?? block.from_s);
    return { of, block, moved: first || turned ? { at_s, own: own(of) } : null, alongside: anyAlongside };
  });
}

type GivesProps = {
  night: NightAnswer;
  date: string;
  /** The campaign of each target, in their order. */
  campaigns: readonly (StoredCampaign | undefined)[];
};

/** What each filter of each target gets tonight, and what is left to do. */
export function Gives({ night, date, campaigns }: GivesProps) {
  const { targets } = ofNight(night);
  const campaignOf = (target: number) => campaigns[target];
  return (
    <section aria-label="What it gives" className="rounded-xl bg-surface px-4 py-2.5">
      <h2 className="text-[1.02rem] font-medium">What it gives</h2>
      {targets.map((t, k) => (
        <div key={k} className={k > 0 ? "mt-3" : ""}>
          {targets.length > 1 && <h3 className="mt-1 text-[0.95rem]">{t.target}</h3>}
          <table
            className="mt-1 w-full text-[0.93rem]"
            data-testid={k === 0 ? "totals" : `totals-${k + 1}`}
            aria-label={`What ${t.target} gets`}
          >
            <thead className="text-left text-[0.82rem] text-muted">
              <tr>
                <th className="font-normal">Filter</th>
                <th className="text-right font-normal">Exposed</th>
                <th className="text-right font-normal">Clean at</th>
                <th className="text-right font-normal">Of its goal</th>
              </tr>
            </thead>
            <tbody>
              {t.plan.totals.map((total) => (
                <tr key={total.exposure} className="border-t border-edge/60">
                  <td className="py-0.5">{total.filter}</td>
                  <td className="num text-right">{clock(total.exposed_s)}</td>
                  <td className="num text-right text-decide" title={`SNR ${snr(total.snr)}`}>
                    {total.clean_arcsec == null ? `SNR ${snr(total.snr)}` : arcsec(total.clean_arcsec)}
                  </td>
                  <td className="num text-right">{percent(total.progress)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="mt-1 text-[0.88rem] text-muted">{percent(t.plan.overhead)} of the time goes into overheads.</p>
          <ul className="mt-1 text-[0.92rem]">
            {[...(k > 0 ? t.waits : []), ...t.plan.notes].map((n) => (
              <li key={n}>
                <Words text={n} />
              </li>
            ))}
          </ul>
          {campaignOf(k) && <Finish campaign={campaignOf(k) as StoredCampaign} date={date} />}
        </div>
      ))}
    </section>
  );
}
