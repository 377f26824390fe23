import type { Contender, Library } from "@/api/client";
import { same } from "@/parts/same";

type Price = number | null | undefined;

/** Prices of telescope and camera together, where the shelf has both. */
export function pricesOf(library: Library, c: Pick<Contender, "optics" | "sensor">): number | null {
  const telescope = library.optics.find((g) => same(g.optics, c.optics))?.price;
  const camera = library.cameras.find((g) => same(g.sensor, c.sensor))?.price;
  return telescope == null || camera == null ? null : telescope + camera;
}

/**
 * The price of a rig of which one part is changed for another. It moves by the difference of the two, so that a mount that was
 * counted in stays counted; a rig without a price gets that of its parts. Where a price is not known it stays as it was typed.
 */
export function followedPrice(rig: Price, before: Price, after: Price, parts: Price): number | null {
  if (rig == null) return parts ?? null;
  if (before == null || after == null) return rig;
  return Math.max(0, rig + after - before);
}
