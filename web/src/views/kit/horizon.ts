/** Azimuth and altitude of trees and roofs, degrees, azimuths ascending. */
export type Horizon = [number, number][];

/** "90 35; 200 5": pair by pair. */
export const horizonText = (list: Horizon) => list.map((p) => p.join(" ")).join("; ");

/** Pairs out of a text; `null` where it holds something else. Decimal commas are read where pairs are apart by blanks. */
export function readHorizon(text: string): Horizon | null {
  const pairs = text
    .split(/[;\n]/)
    .map((p) => p.trim())
    .filter(Boolean)
    .map((p) => {
      const apart = p.split(/\s+/);
      return (apart.length === 2 ? apart.map((n) => n.replace(/,$/, "").replace(",", ".")) : p.split(",")).map(Number);
    });
  return pairs.every((p) => p.length === 2 && p.every(Number.isFinite)) ? (pairs as Horizon) : null;
}

/** The horizon from north around to north: the line that joins the last point to the first is cut there. */
export function around(list: Horizon): Horizon {
  const [first, last] = [list[0], list.at(-1)];
  if (!first || !last) return [];
  const gap = first[0] + 360 - last[0];
  if (gap <= 0) return list;
  const north = last[1] + ((360 - last[0]) / gap) * (first[1] - last[1]);
  return [[0, north], ...list, [360, north]];
}

/** The horizon with a point moved: between its neighbours, from the ground to the zenith, in whole degrees. */
export function moved(list: Horizon, i: number, azimuth: number, altitude: number): Horizon {
  const before = list[i - 1]?.[0] ?? -1;
  const after = list[i + 1]?.[0] ?? 361;
  const next = list.map((p): [number, number] => [...p]);
  next[i] = [
    Math.max(before + 1, Math.min(after - 1, Math.round(azimuth))),
    Math.max(0, Math.min(89, Math.round(altitude))),
  ];
  return next;
}

/** The horizon with a point more, unless one stands at that azimuth. */
export function withPoint(list: Horizon, azimuth: number, altitude: number): Horizon {
  const at = Math.max(0, Math.min(360, Math.round(azimuth)));
  if (list.some((p) => p[0] === at)) return list;
  return [...list, [at, Math.max(0, Math.min(89, Math.round(altitude)))] as [number, number]].sort(
    (a, b) => a[0] - b[0],
  );
}
