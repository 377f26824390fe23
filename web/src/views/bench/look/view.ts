import type { Quantity } from "@/api/client";
import type { Picture } from "@/api/frames";

/** How the look is wanted at first. */
export const START = {
  field_arcsec: 600,
  right_arcsec: 0,
  up_arcsec: 0,
  object_arcsec: null as number | null,
  seed: 1,
  time_fraction: 1,
  palette: "natural" as "natural" | "hoo" | "sho" | "single",
  single: "ha" as Quantity,
  stretch: "asinh" as "linear" | "asinh" | "midtones",
  strength: 0.6,
  match: "background" as "background" | "exposure",
  truth: false,
  flat: false,
  guiding_rms_arcsec: 0,
  gap_mm: 15,
  moon_direction_deg: 0,
};

/** How the look is wanted. */
export type View = typeof START;

/** How the pictures are arranged. */
export type Arrangement = "grid" | "sub" | "blink" | "difference";

/** One picture less another, around mid grey, on the grid of the first. */
export function difference(a: Picture, b: Picture): Picture {
  const image = new ImageData(a.width, a.height);
  for (let y = 0; y < a.height; y++)
    for (let x = 0; x < a.width; x++) {
      const k = (y * a.width + x) * 4;
      const j = (Math.floor((y * b.height) / a.height) * b.width + Math.floor((x * b.width) / a.width)) * 4;
      for (let c = 0; c < 3; c++)
        image.data[k + c] = Math.min(255, Math.max(0, 128 + (b.image.data[j + c] ?? 0) - (a.image.data[k + c] ?? 0)));
      image.data[k + 3] = 255;
    }
  return { width: a.width, height: a.height, image };
}
