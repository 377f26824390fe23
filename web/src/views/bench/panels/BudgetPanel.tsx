import type { Decisions, Scenario, SplitMode } from "@/api/client";
import { choose } from "@/parts/choices";
import { Button } from "@/parts/controls/Button";
import { NumberField } from "@/parts/controls/NumberField";
import { Select } from "@/parts/controls/Select";
import { arcsec, clock, ends, snr } from "@/parts/format";
import { useQuantityName } from "@/parts/quantityName";
import { Words } from "@/parts/Words";
import { hue } from "@/theme/marks";

type Props = {
  scenario: Scenario;
  decisions: Decisions | undefined;
  contender: number;
  letter: string;
  change: (edit: (draft: Scenario) => void) => void;
};

const MODES: Record<SplitMode, string> = {
  as_given: "As it stands",
  equal_time: "Equal time",
  equal_snr: "All goals together",
  weighted: "By weights",
  luminance_heavy: "Luminance heavy",
};

/** The clock's budget: how it is split, what calibration wants, and what could be added. */
export function BudgetPanel({ scenario, decisions, contender, letter, change }: Props) {
  const nameOf = useQuantityName();
  const path = decisions?.paths[contender];
  const time = path?.time;
  const mode = scenario.choices?.split ?? "as_given";
  const exposures = scenario.contenders[contender]?.exposures ?? [];
  const clockS = scenario.contenders[contender]?.total_s ?? scenario.total_s;
  const use = () =>
    change((s) => {
      time?.parts.forEach((p, i) => {
        const e = s.contenders[contender]?.exposures[i];
        if (e) e.share = p.share;
      });
      choose(s, { split: "as_given" });
    });
  const rows = time?.parts ?? [];
  return (
    <section aria-label={`Budget of path ${letter}`} className="min-h-72 rounded-xl bg-surface px-4 pt-2 pb-3">
      <div className="flex flex-wrap items-center gap-x-3">
        <h2 className="text-[1.02rem] font-medium">Budget, path {letter}</h2>
        <p className="min-w-0 grow truncate text-[0.88rem] text-muted">
          How are {clock(clockS)} best split, and what else do they need?
        </p>
        <div className="w-40">
          <Select
            hideLabel
            label="Split"
            value={mode}
            options={Object.entries(MODES).map(([value, label]) => ({ value, label }))}
            onChange={(v) => change((s) => choose(s, { split: v as SplitMode }))}
            testId="split"
          />
        </div>
        <Button look="lit" disabled={mode === "as_given" || rows.length < 2} onClick={use}>
          Use this split
        </Button>
      </div>
      {time && path && (
        <>
          <p className="mt-1 leading-5" data-testid="budget-text">
            <Words text={`${time.text.replace(/^./, (c) => c.toUpperCase())}.`} />
          </p>
          <div
            className="mt-2 flex h-9 overflow-hidden rounded-lg bg-well"
            role="img"
            aria-label={`Split: ${rows.map((p) => `${p.filter ?? "no filter"} ${clock(p.clock_s)}`).join(", ")}`}
          >
            {rows.map((p, i) => (
              <div
                key={`${i}${p.filter}`}
                className="flex min-w-0 items-center justify-center border-r-2 border-surface px-1 text-[0.85rem] text-ground last:border-r-0"
                style={{
                  width: `${p.share * 100}%`,
                  background: p.quantity ? hue(p.quantity) : "var(--muted)",
                }}
              >
                <span className="truncate">{p.share > 0.09 ? clock(p.clock_s) : ""}</span>
              </div>
            ))}
          </div>
          {rows.length > 1 && <FairBand parts={time.balanced} totalS={clockS} />}
          <table className="mt-2 w-full text-[0.92rem]" aria-label="The split by filter">
            <thead className="text-left text-[0.82rem] text-muted">
              <tr>
                <th className="font-normal">Filter</th>
                <th className="text-right font-normal">Time</th>
                <th className="text-right font-normal">Subs</th>
                <th className="pl-4 font-normal">For</th>
                <th className="text-right font-normal">Clean at</th>
                <th className="pl-2 text-right font-normal max-sm:hidden">SNR</th>
                <th className="pl-2 text-right font-normal max-sm:hidden">Range</th>
                <th className="text-right font-normal">Fair time</th>
                <th className="pl-2 text-right font-normal max-[380px]:hidden">Range</th>
                {mode === "weighted" && <th className="text-right font-normal">Weight</th>}
              </tr>
            </thead>
            <tbody className="num">
              {rows.map((p, i) => (
                <tr key={`${i}${p.filter}`} className="border-t border-edge/60 align-top">
                  <td className="py-0.5 font-sans">{p.filter ?? "No filter"}</td>
                  <td className="text-right">{clock(p.clock_s)}</td>
                  <td className="text-right">{p.subs}</td>
                  <td className="pl-4 font-sans">
                    {p.served.length === 0 && <span className="text-muted">nothing here</span>}
                    {p.served.map((v) => (
                      <div key={v.quantity} className={v.wanted ? "" : "text-muted"}>
                        <Words text={nameOf(v.quantity)} />
                        {!v.wanted && " by the way"}
                      </div>
                    ))}
                  </td>
                  <td className="text-right" data-testid={`split-clean-${i}`}>
                    {p.served.map((v) => (
                      <div key={v.quantity} className={v.wanted ? "text-decide" : "text-muted"}>
                        {arcsec(v.clean_arcsec)}
                      </div>
                    ))}
                  </td>
                  <td className="pl-2 text-right max-sm:hidden" data-testid={`split-snr-${i}`}>
                    {p.served.map((v) => (
                      <div key={v.quantity} className={v.wanted ? "text-decide" : "text-muted"}>
                        {snr(v.snr)}
                      </div>
                    ))}
                  </td>
                  <td className="pl-2 text-right text-muted max-sm:hidden">
                    {p.served.map((v) => (
                      <div key={v.quantity}>{ends(v.snr_range, snr) || "\u00a0"}</div>
                    ))}
                  </td>
                  <td className="text-right">{clock(time.balanced[i]?.clock_s ?? 0)}</td>
                  <td className="pl-2 text-right text-muted max-[380px]:hidden">
                    {fairRange(time.balanced[i], clockS)}
                  </td>
                  {mode === "weighted" && (
                    <td className="w-24 py-0.5 pl-3">
                      <NumberField
                        hideLabel
                        label={`Weight of ${p.filter ?? "no filter"}`}
                        value={exposures[i]?.weight ?? 1}
                        min={0.01}
                        max={100}
                        onChange={(v) =>
                          change((s) => {
                            const e = s.contenders[contender]?.exposures[i];
                            if (e) e.weight = v;
                          })
                        }
                      />
                    </td>
                  )}
                </tr>
              ))}
            </tbody>
          </table>
          <dl className="mt-2.5 grid grid-cols-[6.5rem_minmax(0,1fr)] gap-x-3 gap-y-1 text-[0.93rem]">
            <dt className="text-muted">Calibration</dt>
            <dd>{time.calibration.text}.</dd>
            {path.add_ons.map((a) => (
              <Row key={a.name} name="Add" text={`${a.name.replace(/^./, (c) => c.toUpperCase())}: ${a.text}`} />
            ))}
            {path.dual_pairs.map((p, i) => (
              <Row key={p.ids.join()} name={i === 0 ? "S-H-O in pairs" : ""} text={p.text} />
            ))}
            {decisions.equal_clock.map((t, i) => (
              <Row key={t} name={i === 0 ? "Equal clock" : ""} text={t} />
            ))}
          </dl>
        </>
      )}
    </section>
  );
}

type SplitPart = Decisions["paths"][number]["time"]["balanced"][number];

/** How far the fair time of a filter may lie, "" where both ends read the same. */
const fairRange = (p: SplitPart | undefined, totalS: number) =>
  p ? ends({ low: p.share_range.low * totalS, high: p.share_range.high * totalS }, clock) : "";

/** The fair split under the bar of the split in use, with how far its borders may lie. */
function FairBand({ parts, totalS }: { parts: SplitPart[]; totalS: number }) {
  const told = parts.map((p) => `${p.filter ?? "no filter"} ${fairRange(p, totalS) || clock(p.clock_s)}`);
  const starts = parts.map((_, i) => parts.slice(0, i).reduce((sum, p) => sum + p.share, 0));
  return (
    <div className="mt-1" data-testid="fair-band">
      <svg className="block h-3 w-full" role="img" aria-label={`The fair split and its ranges: ${told.join(", ")}`}>
        {parts.map((p, i) => (
          <rect
            key={`${i}${p.filter}`}
            fill={p.quantity ? hue(p.quantity) : "var(--muted)"}
            x={`${(starts[i] ?? 0) * 100}%`}
            width={`${p.share * 100}%`}
            height={12}
            opacity={0.7}
          />
        ))}
        {parts.slice(0, -1).map((p, i) => (
          <rect
            key={`${i}${p.filter}`}
            fill="var(--surface)"
            x={`${((starts[i] ?? 0) + p.share_range.low) * 100}%`}
            width={`${Math.max(0.15, (p.share_range.high - p.share_range.low) * 100)}%`}
            height={12}
            opacity={0.6}
          />
        ))}
      </svg>
      <p className="text-[0.82rem] text-muted">The fair split; where two colours meet, how far that border may lie.</p>
    </div>
  );
}

function Row({ name, text }: { name: string; text: string }) {
  return (
    <>
      <dt className="text-muted">{name}</dt>
      <dd>
        <Words text={text} />
      </dd>
    </>
  );
}
