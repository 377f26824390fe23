import { Fragment } from "react";
import type { NightAnswer } from "@/api/client";
import { localTime, ofNight } from "@/parts/evening";
import { arcsec, clock, percent, snr } from "@/parts/format";
import { Words } from "@/parts/Words";

/** What to do when, and why. */
export function RunSheet({ night }: { night: NightAnswer }) {
  const { targets, end, anything } = ofNight(night);
  const plan = night.first.plan;
  const at = (t: number | null | undefined) => localTime(t, night.clock);
  return (
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
  );
}

/** What each filter of each target gets tonight, and what is left to do. */
export function Gives({ night }: { night: NightAnswer }) {
  const { targets } = ofNight(night);
  return (
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
            {t.plan.notes.map((n) => (
              <li key={n}>
                <Words text={n} />
              </li>
            ))}
          </ul>
        </div>
      ))}
    </section>
  );
}
