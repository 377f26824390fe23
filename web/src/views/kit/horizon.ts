/** Pairs of azimuth, degrees ascending, and something else: the altitude of trees and roofs, or a glow. */
export type ByAzimuth = [number, number][];

/** "90 35; 200 5": pair by pair. */
export const pairsText = (list: ByAzimuth) => list.map((p) => p.join(" ")).join("; ");

/** Pairs out of a text; `null` where it holds something else. Decimal commas are read where pairs are apart by blanks. */
export function readPairs(text: string): ByAzimuth | null {
  const pairs = text
    .split(/[;\n]/)
    .map((p) => p.trim())
    .filter(Boolean)
    .map((p) => {
      const apart = p.split(/\s+/);
      return (apart.length === 2 ? apart.map((n) => n.replace(/,$/, "").replace(",", ".")) : p.split(",")).map(Number);
    });
  return pairs.every((p) => p.length === 2 && p.every(Number.isFinite)) ? (pairs as ByAzimuth) : null;
}

/** The horizon from north around to north: the line that joins the last point to the first is cut there. */
export function around(list: ByAzimuth): ByAzimuth {
  const [first, last] = [list[0], list.at(-1)];
  if (!first || !last) return [];
  const gap = first[0] + 360 - last[0];
  if (gap <= 0) return list;
  const north = last[1] + ((360 - last[0]) / gap) * (first[1] - last[1]);
  return [[0, north], ...list, [360, north]];
}

/** How high a table's values go, and in what steps a hand sets them. */
export type Values = { top: number; step: number };
export const ALTITUDES: Values = { top: 89, step: 1 };
export const GLOWS: Values = { top: 8, step: 0.1 };

const within = (value: number, { top, step }: Values) =>
  Math.max(0, Math.min(top, Number((Math.round(value / step) * step).toFixed(3))));

/** The table with a point moved: between its neighbours, in whole degrees. */
export function moved(list: ByAzimuth, i: number, azimuth: number, value: number, values = ALTITUDES): ByAzimuth {
  const before = list[i - 1]?.[0] ?? -1;
  const after = list[i + 1]?.[0] ?? 361;
  const next = list.map((p): [number, number] => [...p]);
  next[i] = [Math.max(before + 1, Math.min(after - 1, Math.round(azimuth))), within(value, values)];
  return next;
}

/** The table with a point more, unless one stands at that azimuth. */
export function withPoint(list: ByAzimuth, azimuth: number, value: number, values = ALTITUDES): ByAzimuth {
  const at = Math.max(0, Math.min(360, Math.round(azimuth)));
  if (list.some((p) => p[0] === at)) return list;
  return [...list, [at, within(value, values)] as [number, number]].sort((a, b) => a[0] - b[0]);
}
