import type { Corrections } from "@/api/log";

/** What can be corrected for a whole night, in the order in which one asks. */
export const FIELDS: readonly {
  key: keyof Corrections;
  label: string;
  unit: string;
  text?: true;
  choices?: readonly string[];
}[] = [
  { key: "object", label: "Object", unit: "", text: true },
  { key: "filter", label: "Filter", unit: "", text: true },
  { key: "type", label: "Kind", unit: "", text: true, choices: ["light", "dark", "bias", "flat", "dark_flat"] },
  { key: "exposure_s", label: "Exposure", unit: "s" },
  { key: "clock_off_s", label: "Clock is late by", unit: "s" },
  { key: "gain", label: "Gain setting", unit: "" },
  { key: "e_per_adu", label: "Electrons per ADU", unit: "e-/ADU" },
  { key: "offset_adu", label: "Offset", unit: "ADU" },
  { key: "sensor_c", label: "Sensor", unit: "°C" },
  { key: "binning", label: "Binning", unit: "" },
  { key: "pixel_um", label: "Pixel", unit: "µm" },
  { key: "focal_length_mm", label: "Focal length", unit: "mm" },
  { key: "ra_deg", label: "Right ascension", unit: "°" },
  { key: "dec_deg", label: "Declination", unit: "°" },
  { key: "position_angle_deg", label: "Angle of up", unit: "°, north through east" },
  { key: "latitude_deg", label: "Latitude", unit: "°, north positive" },
  { key: "longitude_deg", label: "Longitude", unit: "°, east positive" },
];

export type Typed = Partial<Record<keyof Corrections, string>>;

/** What was typed as corrections, or which field is no number. */
export function corrected(typed: Typed): Corrections | keyof Corrections {
  const out: Corrections = {};
  for (const f of FIELDS) {
    const text = (typed[f.key] ?? "").trim();
    if (text === "") continue;
    const number = Number(text.replace(",", "."));
    if (!f.text && !Number.isFinite(number)) return f.key;
    Object.assign(out, { [f.key]: f.text ? text : number });
  }
  return out;
}

/** A header's value as it is read: a number to seven figures, with its unit. */
export function valueWords(value: unknown, unit: string): string {
  if (value == null) return "–";
  const text = typeof value === "number" ? String(Number(value.toPrecision(7))) : String(value).replace("_", " ");
  return unit ? `${text} ${unit.split(",")[0]}` : text;
}
