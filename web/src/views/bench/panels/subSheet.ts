/** Room around the picture for its axes and the names of the schools. */
export const PAD = { left: 46, right: 16, top: 28, bottom: 30 };

/** What every layer of the picture draws on. */
export type Sheet = {
  width: number;
  height: number;
  from: number;
  to: number;
  x: (t: number) => number;
  y: (share: number) => number;
  clampX: (t: number) => number;
  inside: (t: number | null | undefined) => boolean;
  invert: (px: number) => number;
};
