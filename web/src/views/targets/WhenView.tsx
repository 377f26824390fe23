import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { CatalogueObject, Library, Target } from "@/api/client";
import { calendarQuery } from "@/api/queries";
import { ChartFrame } from "@/charts/ChartFrame";
import { Select } from "@/parts/controls/Select";
import { nightSite, skyOf, tonightDate, useRigAndSite } from "@/parts/evening";
import { Words } from "@/parts/Words";
import { hue } from "@/theme/marks";

const PAD = { left: 34, right: 10, top: 14, bottom: 26 };
const SPANS = [
  { value: "31", label: "This month" },
  { value: "365", label: "A year" },
];

/** When an object is up in the dark: hours a night, with and without the moon, and the best dates of each filter. */
export function WhenView({
  object,
  emission,
  library,
}: {
  object: CatalogueObject;
  emission: Target;
  library: Library;
}) {
  const { sites, site, setSite, rigs, chosen: rig, used, setRig } = useRigAndSite(library);
  const [days, setDays] = useState("31");
  const date = tonightDate(site?.site);
  const calendar = useQuery(
    calendarQuery(
      site && used
        ? {
            scenario: { ...used.scenario, target: emission, sky: skyOf(used.scenario.sky, site) },
            contender: used.contender,
            site: nightSite(site),
            date,
            days: Number(days),
            place: { ra_deg: object.ra_deg, dec_deg: object.dec_deg },
          }
        : null,
    ),
  );
  const nights = calendar.data?.nights ?? [];
  const dates = calendar.data?.dates ?? [];
  const twin = {
    columns: ["Evening of", "Dark (h)", "Above its limit (h)", "Without the moon (h)", "Moon lit (%)"],
    rows: nights.map((n, i) => [
      dates[i] ?? "",
      n.dark_h.toFixed(1),
      n.usable_h.toFixed(1),
      n.moonless_h.toFixed(1),
      (n.moon_lit * 100).toFixed(0),
    ]),
  };
  return (
    <ChartFrame
      title="When it is up in the dark"
      question={`Hours a night above 20° from ${site?.entry.name ?? "…"}; bright where the moon is down`}
      twin={twin}
      height={120}
      side={
        <div className="flex flex-wrap gap-2">
          <div className="w-32">
            <Select hideLabel label="Span" value={days} options={SPANS} onChange={setDays} testId="span" />
          </div>
          <div className="w-32">
            <Select
              hideLabel
              label="Site"
              value={site?.id ?? ""}
              options={sites.map((s) => ({ value: s.id, label: s.entry.name }))}
              onChange={setSite}
              testId="when-site"
            />
          </div>
          <div className="w-40">
            <Select hideLabel label="Rig" value={rig} options={rigs} onChange={setRig} />
          </div>
        </div>
      }
      below={
        <ul className="flex flex-wrap gap-x-5 text-[0.92rem]" data-testid="best-dates">
          {calendar.data?.best.map((b) => (
            <li key={b.exposure}>
              <b style={{ color: b.quantity ? hue(b.quantity) : undefined }}>
                <Words text={b.quantity_name ?? calendar.data?.filters[b.exposure] ?? ""} />
              </b>{" "}
              <span className="num">
                {b.nights
                  .slice(0, 3)
                  .map((n) => dates[n]?.slice(5))
                  .join(", ") ||
                  (emission.kind === "reflection_nebula" && b.quantity !== "continuum"
                    ? "no light of a line: it reflects starlight"
                    : "not in this span")}
              </span>
            </li>
          ))}
        </ul>
      }
    >
      {(width, height) => {
        const step = (width - PAD.left - PAD.right) / Math.max(1, nights.length);
        const most = Math.max(4, ...nights.map((n) => n.usable_h));
        const y = (h: number) => height - PAD.bottom - ((height - PAD.bottom - PAD.top) * h) / most;
        const every = nights.length > 60 ? 31 : nights.length > 20 ? 5 : 2;
        return (
          <svg
            width={width}
            height={height}
            role="img"
            aria-label={`Hours in the dark above the limit over ${nights.length} nights`}
            style={{ fontFamily: "var(--font-mono)", fontSize: 11 }}
          >
            {[0, Math.round(most / 2), Math.round(most)].map((h) => (
              <text key={h} x={PAD.left - 6} y={y(h) + 4} textAnchor="end" fill="var(--muted)">
                {h} h
              </text>
            ))}
            {nights.map((n, i) => (
              <g key={n.noon_s}>
                <rect
                  x={PAD.left + i * step}
                  width={Math.max(0.8, step * 0.86)}
                  y={y(n.usable_h)}
                  height={Math.max(0, y(0) - y(n.usable_h))}
                  fill="var(--salt-deep)"
                  opacity={0.5}
                />
                <rect
                  x={PAD.left + i * step}
                  width={Math.max(0.8, step * 0.86)}
                  y={y(n.moonless_h)}
                  height={Math.max(0, y(0) - y(n.moonless_h))}
                  fill="var(--salt)"
                />
                {i % every === 0 && (
                  <text x={PAD.left + i * step} y={height - 8} fill="var(--muted)">
                    {dates[i]?.slice(5)}
                  </text>
                )}
              </g>
            ))}
          </svg>
        );
      }}
    </ChartFrame>
  );
}
