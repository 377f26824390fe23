import { type FrameInLog, type NightOfLog, useDecide, useNoteSession } from "@/api/log";
import { fail } from "@/parts/fail";
import { clock, fixed } from "@/parts/format";
import { useOfferUndo } from "@/parts/useOfferUndo";
import { FramePane } from "./FramePane";
import { FrameTable } from "./FrameTable";
import { isLight } from "./measures";
import { NightCampaigns } from "./NightCampaigns";
import { NightEvents } from "./NightEvents";
import { NightHead } from "./NightHead";
import { NightTaught } from "./NightTaught";
import { Sparks } from "./Sparks";

type Props = { night: NightOfLog; chosen: string | null; choose: (id: string) => void };

type Total = NightOfLog["totals"][number];
const isSky = (t: Total) => t.type == null || t.type === "light";

/** "16 flats, 4 darks, 4 bias". */
function calibrated(totals: readonly Total[]): string {
  const sums = new Map<string, number>();
  for (const t of totals) {
    const kind = t.type === "bias" ? "bias" : `${(t.type ?? "").replace("_", " ")}s`;
    sums.set(kind, (sums.get(kind) ?? 0) + t.taken);
  }
  return [...sums].map(([kind, n]) => `${n} ${kind}`).join(", ");
}

/** One night: what it brought, how it went, and frame by frame what was good and why not. */
export function NightDetail({ night, chosen, choose }: Props) {
  const [decide, note, offerUndo] = [useDecide(), useNoteSession(), useOfferUndo()];
  const { session, totals } = night;
  const lights = night.frames.filter(isLight);
  const frame = night.frames.find((f) => f.id === chosen) ?? lights.find((f) => !f.kept) ?? lights[0];
  const objects = [...new Set(lights.map((f) => f.object).filter((o) => o != null && o !== ""))] as string[];
  const calibration = calibrated(totals.filter((t) => !isSky(t)));
  const said = (f: FrameInLog, kept: boolean | null) => {
    const to = (decision: FrameInLog["decision"], why: string) =>
      decide({ frames: [f.id], decision: decision ?? null, why });
    const now = kept == null ? null : kept ? "kept" : "aside";
    const words = kept == null ? "left to the rules" : kept ? "kept" : "put aside";
    offerUndo(`${f.file} ${words}`, () => to(f.decision, f.why), to(now, ""));
  };
  return (
    <div className="flex min-w-0 flex-col gap-3">
      <section aria-label="What the night brought" className="rounded-xl bg-surface px-4 py-3">
        <NightHead night={night} frame={frame?.id} objects={objects} />
        <ul className="mt-2 flex flex-col gap-0.5" data-testid="night-totals">
          {totals.filter(isSky).map((t) => (
            <li key={JSON.stringify([t.type, t.object, t.filter, t.exposure_s, t.gain])}>
              <b className="font-semibold">{t.filter ?? "No filter"}</b>: {t.kept} of {t.taken} × {t.exposure_s ?? "?"}{" "}
              s kept, {clock(t.kept_s)}, worth {fixed(t.worth, 1)} clear ones
              {t.fwhm_arcsec != null && <span className="text-muted"> · stars {fixed(t.fwhm_arcsec, 1)}″</span>}
            </li>
          ))}
        </ul>
        {calibration && <p className="mt-0.5 text-muted">{calibration}</p>}
        {night.told.map((t) => (
          <p key={t} className="mt-1 text-warn">
            {t}
          </p>
        ))}
        <label className="mt-2 block text-[0.85rem] text-muted">
          Note
          <input
            key={session.id}
            defaultValue={session.note}
            onBlur={(e) => {
              if (e.target.value !== session.note) note({ id: session.id, note: e.target.value }).catch(fail);
            }}
            className="mt-0.5 h-8 w-full rounded-md border border-edge bg-well px-2 text-ink"
          />
        </label>
        <NightEvents night={night} />
      </section>
      <NightCampaigns night={night} />
      <NightTaught night={session.id} />
      <div className="grid grid-cols-[minmax(0,1fr)_22rem] gap-3 max-xl:grid-cols-[minmax(0,1fr)]">
        <Sparks night={night} chosen={frame?.id ?? null} choose={choose} />
        {frame && <FramePane key={frame.id} night={night} frame={frame} choose={choose} decide={said} />}
      </div>
      <FrameTable frames={lights} chosen={frame?.id ?? null} choose={choose} />
    </div>
  );
}
