import type { OfferOfNight } from "@/api/log";
import { fixed } from "@/parts/format";

type Offer = OfferOfNight["offer"];

const NAMES: Record<Offer["lesson"], string> = {
  zenith: "Sky at the zenith",
  lamps_off: "Lamps by the hour",
  glow: "Glow of towns",
  extinction: "Extinction",
  seeing: "Seeing",
  throughput: "Light that the telescope passes",
  read_noise: "Read noise",
  dark: "Dark current",
  filter_centre: "Centre of the filter",
};

export const lessonName = (o: Offer) => (o.gain == null ? NAMES[o.lesson] : `${NAMES[o.lesson]} at gain ${o.gain}`);

/** Decimals that a standard deviation leaves worth writing: its first two figures. */
export function decimalsFor(sd: number): number {
  return sd > 0 ? Math.min(5, Math.max(0, 1 - Math.floor(Math.log10(sd)))) : 2;
}

/** "21.60 → 21.28 ± 0.15 V mag/arcsec²". */
export function offerWords(o: Offer): string {
  const d = decimalsFor(o.offered.sd);
  const from = o.from_solar_hour == null ? "" : ` from ${hourWords(o.from_solar_hour)} mean solar time on`;
  const towards = o.azimuth_deg == null ? "" : ` towards ${fixed(o.azimuth_deg, 0)}°`;
  return `${fixed(o.now.value, d)} → ${fixed(o.offered.value, d)} ± ${fixed(o.offered.sd, d)}${o.unit}${from}${towards}`;
}

/** "22:45" of hours. */
export function hourWords(hour: number): string {
  const minutes = Math.round(hour * 60) % 1440;
  return `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, "0")}`;
}
