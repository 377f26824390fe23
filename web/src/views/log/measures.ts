import type { FrameInLog } from "@/api/log";

export type Measure = {
  key: string;
  label: string;
  unit: string;
  of: (f: FrameInLog) => number | null | undefined;
  written: (v: number) => string;
};

/** What is drawn through a night, in the order in which one asks. */
export const MEASURES: readonly Measure[] = [
  {
    key: "transparency",
    label: "Starlight",
    unit: "% of the clearest",
    of: (f) => f.judged?.transparency,
    written: (v) => (100 * v).toFixed(0),
  },
  {
    key: "hfr",
    label: "Star size",
    unit: "px half-flux radius",
    of: (f) => f.judged?.hfr_px,
    written: (v) => v.toFixed(2),
  },
  { key: "shape", label: "Star shape", unit: "to 1", of: (f) => f.judged?.elongation, written: (v) => v.toFixed(2) },
  {
    key: "background",
    label: "Background",
    unit: "ADU over the offset",
    of: (f) => f.judged?.background_adu,
    written: (v) => v.toFixed(0),
  },
  {
    key: "guiding",
    label: "Guiding",
    unit: "arcsec root mean square",
    of: (f) => f.judged?.guiding_arcsec,
    written: (v) => v.toFixed(2),
  },
  { key: "stars", label: "Stars", unit: "found", of: (f) => f.judged?.stars, written: (v) => v.toFixed(0) },
];

/** Frames of the sky. */
export const isLight = (f: FrameInLog) => f.type === "light" || (f.type == null && (f.judged?.stars ?? 0) > 0);

/** The filters of a night in the order in which they came. */
export const filtersOf = (frames: readonly FrameInLog[]) => [
  ...new Set(frames.filter(isLight).map((f) => f.filter ?? "no filter")),
];

/** The frame so many lights further on, in the order of time; the ends hold. */
export function neighbour(frames: readonly FrameInLog[], id: string | null, by: number): FrameInLog | undefined {
  const lights = frames.filter(isLight);
  const at = lights.findIndex((f) => f.id === id);
  return lights[Math.max(0, Math.min(lights.length - 1, at + by))];
}

/** Hours and minutes of a moment in UTC. */
export const utc = (s: number | null | undefined) => (s == null ? "" : new Date(s * 1000).toISOString().slice(11, 16));
