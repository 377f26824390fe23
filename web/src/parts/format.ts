/** Numbers as they stand on screen. The front end formats; it computes no physics. */

export function clock(s: number | null | undefined): string {
  if (s == null || !Number.isFinite(s)) return "out of reach";
  const minutes = Math.round(s / 60);
  if (s < 90) return `${Math.ceil(s)} s`;
  if (minutes < 60) return `${minutes} min`;
  if (minutes < 6000) {
    const m = minutes % 60;
    return m === 0 ? `${minutes / 60} h` : `${Math.floor(minutes / 60)} h ${m} min`;
  }
  const h = s / 3600;
  return h > 10_000 ? "> 10 000 h" : `${Number(h.toPrecision(2)).toLocaleString("en").replaceAll(",", " ")} h`;
}

/** A time on the clock as it was typed: nothing of it is rounded away. */
export function typedClock(s: number): string {
  if (s % 60 === 0 || s < 90) return clock(s);
  const minutes = (x: number) => `${Number((x / 60).toFixed(2))} min`;
  return s < 3600 ? minutes(s) : `${Math.floor(s / 3600)} h ${minutes(s % 3600)}`;
}

/** A side of a square on the sky: two figures. */
export const arcsec = (side: number | null | undefined): string =>
  side == null ? "–" : `${Number(side.toPrecision(2))}″`;

/** "1 sub", "12 subs". */
export const many = (subs: number): string => `${subs} ${subs === 1 ? "sub" : "subs"}`;

/** A length of a sub: two figures, as people say it. */
export const seconds = (s: number): string =>
  s >= 99.5 ? `${Math.round(s)} s` : s >= 0.095 ? `${Number(s.toPrecision(2))} s` : "under 0.1 s";

export const percent = (x: number): string =>
  x >= 0.0995 ? `${(x * 100).toFixed(0)} %` : x >= 0.001 ? `${(x * 100).toFixed(1)} %` : x > 0 ? "< 0.1 %" : "0 %";

export const snr = (x: number): string => (x >= 100 ? x.toFixed(0) : x.toFixed(1));

type Span = { low: number; high: number };

/** The two ends of a range, each as it is written alone; "" where they read the same. */
export const ends = (r: Span | null | undefined, written: (x: number) => string): string => {
  if (!r) return "";
  const [low, high] = [written(r.low), written(r.high)];
  const unit = / ?[^\d.]+$/.exec(high)?.[0] ?? "";
  return low === high ? "" : `${unit && low.endsWith(unit) ? low.slice(0, -unit.length) : low}–${high}`;
};

/** A number to so many decimals, never "-0.0". */
export const fixed = (x: number, decimals: number): string => x.toFixed(decimals).replace(/^-(0(?:\.0*)?)$/, "$1");

export const mag = (x: number | null | undefined): string => (x == null ? "none" : fixed(x, 2));

export const rate = (x: number): string =>
  x >= 10 ? x.toFixed(1) : x >= 0.1 ? x.toFixed(2) : x >= 0.001 ? x.toFixed(4) : x === 0 ? "0" : x.toExponential(1);
