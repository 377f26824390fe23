import type { Extent, Framing } from "@/api/client";
import { range } from "@/parts/range";

/** Size of the drawing, in its own units. */
export const [W, H] = [420, 270];

/** Where the drawing's middle lies: amid all that is framed, arcmin east and north of the first object. */
export function middleOf(objects: readonly Extent[]): [number, number] {
  const amid = (of: (o: Extent) => number) => {
    const all = objects.map(of);
    return all.length === 0 ? 0 : (Math.min(...all) + Math.max(...all)) / 2;
  };
  return [amid((o) => o.east_arcmin ?? 0), amid((o) => o.north_arcmin ?? 0)];
}

/** Width and height of all panels of a mosaic together, arcmin. */
export function mosaicSize({ plan, width_arcmin, height_arcmin }: Framing): [number, number] {
  const all = (side: number, n: number) => side * (1 + (n - 1) * (1 - (plan.overlap ?? 0)));
  return [all(width_arcmin, plan.panels_wide ?? 1), all(height_arcmin, plan.panels_high ?? 1)];
}

/** How many of the drawing's units an arcmin takes, so that objects and fields fit, turned anyhow. */
export function scaleFor(objects: readonly Extent[], fields: readonly Framing[]): number {
  const [east, north] = middleOf(objects);
  const reach = (at: number, from: number, size: number) => 2 * Math.abs(at - from) + size * 1.15;
  const sizes = fields.map(mosaicSize);
  const across = sizes.map(([w, h]) => Math.hypot(w, h) * 0.86);
  const widest = Math.max(
    1,
    ...objects.map((o) => reach(o.east_arcmin ?? 0, east, o.major_arcmin)),
    ...sizes.map(([w]) => w),
    ...across,
  );
  const tall = (o: Extent) => reach(o.north_arcmin ?? 0, north, objects.length > 1 ? o.major_arcmin : o.minor_arcmin);
  const tallest = Math.max(1, ...objects.map(tall), ...across);
  return Math.min((W - 16) / widest, (H - 30) / tallest);
}

/** How far around the first object things stand in the drawing, degrees, in steps that ask no new question at every drag. */
export function withinDeg(scale: number, middle: [number, number]): number {
  const arcmin = Math.hypot(W, H) / 2 / scale + Math.hypot(...middle);
  return Math.min(15, Math.ceil((arcmin / 60) * 10) / 10);
}

/** Where the frames stand over the first object: moved by arcmin, turned from north over east. */
export type Placed = { east: number; north: number; angle: number };

/** Radius of a star's dot, for its magnitude: brighter is larger, and none vanishes. */
export const starRadius = (v_mag: number) => Math.max(0.5, Math.min(5, 4.6 - 0.48 * v_mag));

const tint = (colour: string) => `color-mix(in oklab, ${colour} 55%, var(--ink))`;

/** The colour that a star's B - V looks like, drawn towards the ink so that it stands out on any ground. */
export function starColour(b_v: number | null | undefined): string {
  if (b_v == null) return "var(--ink)";
  if (b_v < 0.1) return tint("#b9cdf5");
  if (b_v < 0.5) return tint("#e6ebf7");
  if (b_v < 0.9) return tint("#fff1d6");
  return b_v < 1.3 ? tint("#ffd6a1") : tint("#ffb27d");
}

const number = (text: string | null, usual: number) => {
  const n = text === null ? Number.NaN : Number(text);
  return Number.isFinite(n) ? n : usual;
};

/** Where the address says that the frames stand; where it says nothing, where they stand best. */
export const placedIn = (params: URLSearchParams, best: Placed): Placed => ({
  east: number(params.get("east"), best.east),
  north: number(params.get("north"), best.north),
  angle: number(params.get("angle"), best.angle),
});

const MOST = range("FramePlan", "panels_wide");

/** Panels as the address says them: "3x2". */
export function panelsIn(text: string | null): { wide: number; high: number } | null {
  const [wide, high] = (text ?? "").split("x").map(Number);
  const fits = (n: number | undefined): n is number =>
    n !== undefined && Number.isInteger(n) && n >= MOST.min && n <= MOST.max;
  return fits(wide) && fits(high) ? { wide, high } : null;
}
