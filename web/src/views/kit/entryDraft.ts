import type { ShelfEntry } from "@/api/client";
import { followWidth } from "@/parts/followName";
import type { Band } from "./BandFields";

type Path = (string | number)[];
type Json = Record<string, unknown>;

/** What stands at a path. */
export const get = (from: unknown, path: Path): unknown =>
  path.reduce<unknown>((v, k) => (v as Json | undefined)?.[k as string], from);
/** Puts a value where a path leads. */
export function put(into: unknown, path: Path, value: unknown) {
  const last = path.at(-1) as string;
  (get(into, path.slice(0, -1)) as Json)[last] = value;
}

/** A new name, also where the thing itself carries it. */
export function rename(next: ShelfEntry, name: string) {
  next.name = name;
  if (next.thing.kind === "filter") next.thing.item.filter.name = name;
  if (next.thing.kind === "camera") next.thing.item.sensor.name = name;
}

/** A filter that is called by a band's width is called by its new one. */
export function followBands(next: ShelfEntry, bands: Band[]) {
  if (next.thing.kind !== "filter") return;
  const was = next.thing.item.filter.bands ?? [];
  bands.forEach((b, i) => {
    const old = was[i];
    if (old && was.length === bands.length) rename(next, followWidth(next.name, old.fwhm_nm, b.fwhm_nm));
  });
}

/** Corner points of flat bands, to start a curve from. */
export function bandsAsPoints(bands: { centre_nm: number; fwhm_nm: number; peak: number }[]): number[][] {
  const sorted = [...bands].sort((a, b) => a.centre_nm - b.centre_nm);
  const out: number[][] = [];
  for (const b of sorted) {
    const half = b.fwhm_nm / 2;
    for (const [d, v] of [
      [-half * 1.25, 0],
      [-half * 0.8, b.peak],
      [half * 0.8, b.peak],
      [half * 1.25, 0],
    ] as const) {
      const nm = Math.round((b.centre_nm + d) * 100) / 100;
      if (nm > (out.at(-1)?.[0] ?? 0)) out.push([nm, v]);
    }
  }
  return out;
}
