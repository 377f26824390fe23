import type { FrameMeasured } from "@/api/client";

type Channel = FrameMeasured["channels"][number];

const to = (places: number) => (v: number | null | undefined) => (v == null ? "" : v.toFixed(places));
const share = (v: number) => `${(100 * v).toFixed(4)} %`;

/** What is measured, with its unit; a column a channel. */
const ROWS: [string, (c: Channel) => string][] = [
  ["Level, ADU", (c) => to(1)(c.level_adu)],
  ["Scatter of a pixel, ADU", (c) => to(2)(c.sigma_adu)],
  ["Smallest to largest, ADU", (c) => `${to(0)(c.min_adu)} to ${to(0)(c.max_adu)}`],
  ["Full", (c) => share(c.clipped_share)],
  ["At zero", (c) => share(c.zero_share)],
  ["Slope, % of the level", (c) => to(1)(c.slope_percent)],
  ["Rising towards, ° from the top", (c) => to(0)(c.slope_toward_deg)],
  ["Stars", (c) => String(c.stars)],
  ["Half-flux radius, px", (c) => to(2)(c.hfr_px)],
  ["Full width, px", (c) => to(2)(c.fwhm_px)],
  ["Elongation", (c) => to(2)(c.elongation)],
  ["Drawn out towards, °", (c) => to(0)(c.elongation_toward_deg)],
];

/** The numbers of each channel, and the stars' size in corners and middle. */
export function FrameNumbers({ frame }: { frame: FrameMeasured }) {
  const first = frame.channels.find((c) => c.channel === "g") ?? frame.channels[0];
  return (
    <section aria-label="What was measured" className="rounded-xl bg-surface px-4 py-3" data-testid="frame-numbers">
      <h3 className="font-medium">What was measured</h3>
      <table className="mt-2 w-full text-[0.9rem]">
        <thead>
          <tr className="text-muted">
            <td />
            {frame.channels.map((c) => (
              <th key={c.channel} scope="col" className="text-right font-normal">
                {c.channel}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {ROWS.map(([name, of]) => (
            <tr key={name}>
              <th scope="row" className="pr-3 text-left font-normal text-muted">
                {name}
              </th>
              {frame.channels.map((c) => (
                <td key={c.channel} className="num text-right">
                  {of(c)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {first?.parts.some((p) => p.hfr_px != null) && (
        <table className="mt-3 w-full text-[0.9rem]">
          <caption className="text-left text-muted">Stars in the corners, channel {first.channel}</caption>
          <thead>
            <tr className="text-muted">
              <td />
              <th scope="col" className="text-right font-normal">
                half-flux radius
              </th>
              <th scope="col" className="text-right font-normal">
                elongation
              </th>
              <th scope="col" className="text-right font-normal">
                stars
              </th>
            </tr>
          </thead>
          <tbody>
            {first.parts.map((p) => (
              <tr key={p.part}>
                <th scope="row" className="pr-3 text-left font-normal text-muted">
                  {p.part}
                </th>
                <td className="num text-right">{p.hfr_px == null ? "too few" : `${p.hfr_px.toFixed(2)} px`}</td>
                <td className="num text-right">{p.elongation == null ? "" : p.elongation.toFixed(2)}</td>
                <td className="num text-right">{p.stars}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {frame.problems.map((p) => (
        <p key={p} className="mt-1 text-[0.88rem] text-amber">
          {p}
        </p>
      ))}
    </section>
  );
}
