import { Link } from "react-router";
import { type NowAnswer, previewOf } from "@/api/log";
import { fixed } from "@/parts/format";
import { ago } from "./until";

/** The last frame: its picture, its verdict, and what was measured. */
export function LastFrame({ answer, clock }: { answer: NowAnswer; clock: number }) {
  const { last, told, alarm, session, seen } = answer;
  const instruments = [
    seen.sky_v_mag != null && `sky meter ${fixed(seen.sky_v_mag, 2)} mag/arcsec²`,
    seen.cover != null && `cloud ${fixed(100 * seen.cover, 0)} %`,
  ].filter(Boolean);
  if (!last)
    return (
      <section aria-label="The last frame" className="rounded-xl bg-surface px-4 py-3">
        <h2 className="text-[1.02rem] font-medium">The last frame</h2>
        <p className="text-muted">
          Nothing came in tonight.{" "}
          <Link className="underline" to="/log">
            Watch the folder
          </Link>{" "}
          that the camera writes to.
        </p>
      </section>
    );
  const figures = [
    last.fwhm_arcsec != null && `stars ${fixed(last.fwhm_arcsec, 1)}″`,
    last.transparency != null && `starlight ${fixed(100 * last.transparency, 0)} %`,
    last.background_e_per_s != null && `sky ${fixed(last.background_e_per_s, 2)} e-/s`,
  ].filter(Boolean);
  return (
    <section aria-label="The last frame" className="rounded-xl bg-surface px-4 py-3">
      <h2 className="text-[1.02rem] font-medium">The last frame</h2>
      <p
        className={`text-[1.1rem] ${alarm ? "text-warn" : ""}`}
        role={alarm ? "alert" : undefined}
        data-testid="now-told"
      >
        {told}
      </p>
      <p className="text-muted">
        {last.object ? `${last.object}, ` : ""}
        {last.filter ?? "No filter"}, {ago(clock - last.ended_s)} · {figures.join(" · ")}
      </p>
      {instruments.length > 0 && (
        <p className="text-muted" data-testid="now-seen">
          {instruments.join(" · ")}, {ago(clock - (seen.at_s ?? clock))}
        </p>
      )}
      {session && (
        <Link to={`/log?night=${session}&frame=${last.id}`} aria-label={`Open ${last.file} in the log`}>
          <img
            src={previewOf(last.id)}
            alt={`${last.file}, small`}
            className="mt-2 max-h-72 w-full rounded-lg bg-well object-contain [filter:var(--picture-filter,none)]"
          />
        </Link>
      )}
    </section>
  );
}
