import type { NightAnswer } from "@/api/client";
import type { TableTwin } from "@/charts/ChartFrame";
import { localTime } from "@/parts/evening";
import { rate } from "@/parts/format";

type Sample = NightAnswer["first"]["view"]["samples"][number];

/** From half an hour before sunset to half an hour after sunrise, seconds since 1970. */
export function nightSpan({ first: { view } }: NightAnswer): [number, number] {
  const { samples, events } = view;
  return [(events.sunset_s ?? samples[0]?.at_s ?? 0) - 1800, (events.sunrise_s ?? samples.at(-1)?.at_s ?? 1) + 1800];
}

/** The minute nearest to a time. */
export function sampleAt({ first: { view } }: NightAnswer, at_s: number): Sample | undefined {
  const [a, b] = view.samples;
  if (!a || !b) return a;
  const i = Math.round((at_s - a.at_s) / (b.at_s - a.at_s));
  return view.samples[Math.max(0, Math.min(view.samples.length - 1, i))];
}

const degrees = (x: number) => `${x.toFixed(0)}°`;

/** One minute in words: heights, the moon's distance, and what each filter gathers and through how bright a sky. */
export function minuteWords(night: NightAnswer, s: Sample): string {
  const best = night.first.filters.map((_, i) =>
    Math.max(1e-300, ...night.first.view.samples.map((o) => o.information_per_h[i] ?? 0)),
  );
  const sky = `${localTime(s.at_s, night.clock)}: ${night.first.target} ${degrees(s.target_deg)} high, sun ${degrees(s.sun_deg)}, moon ${
    s.moon_deg > 0 ? `${degrees(s.moon_deg)} high, ${degrees(s.moon_distance_deg)} away` : "down"
  }.`;
  if (!s.usable) return `${sky} ${s.target_deg <= s.limit_deg ? "Below its limit." : "Not dark."}`;
  const filters = night.first.filters.map(
    (name, i) =>
      `${name} ${(((s.information_per_h[i] ?? 0) / (best[i] ?? 1)) * 100).toFixed(0)} % of its best, sky ${rate(s.background_e_per_s[i] ?? 0)} e-/s`,
  );
  return `${sky} ${filters.join("; ")}.`;
}

/** The night as a table, a row a quarter of an hour. */
export function nightTable(night: NightAnswer): TableTwin {
  const [first, last] = nightSpan(night);
  const rows = night.first.view.samples.filter(
    (s) => s.at_s >= first && s.at_s <= last && Math.round(s.at_s) % 900 === 0,
  );
  return {
    columns: [
      "UTC",
      `Local time (${night.zone})`,
      "Sun (°)",
      "Target (°)",
      "Limit (°)",
      "Moon (°)",
      "Moon to target (°)",
      ...night.first.filters.flatMap((f) => [`${f}: SNR² per h`, `${f}: sky (e-/s/px)`]),
    ],
    rows: rows.map((s) => [
      `${new Date(s.at_s * 1000).toISOString().slice(0, 19)}Z`,
      localTime(s.at_s, night.clock),
      s.sun_deg.toFixed(1),
      s.target_deg.toFixed(1),
      s.limit_deg.toFixed(1),
      s.moon_deg.toFixed(1),
      s.moon_distance_deg.toFixed(1),
      ...night.first.filters.flatMap((_, i) => [
        (s.information_per_h[i] ?? 0).toFixed(1),
        rate(s.background_e_per_s[i] ?? 0),
      ]),
    ]),
  };
}
