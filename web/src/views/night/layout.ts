import { scaleLinear } from "d3-scale";
import type { NightAnswer } from "@/api/client";
import { nightSpan } from "./minutes";

/** Margins and heights of the night's picture, px. */
export const PAD = { left: 112, right: 18, top: 22 };
export const SKY = 210;
export const RIBBON = 19;
export const BLOCK = 44;

/** Where a filter's ribbon begins, px from the top. */
export const ribbonTop = (i: number) => PAD.top + SKY + 30 + i * (RIBBON + 3);
export const heightOf = (night: NightAnswer) =>
  ribbonTop(night.filters.length) + 14 + BLOCK + (night.second ? BLOCK + 6 : 0);

/** The scale of time over a width. */
export const timeScale = (night: NightAnswer, width: number) =>
  scaleLinear(nightSpan(night), [PAD.left, Math.max(PAD.left + 10, width - PAD.right)]);
export type TimeScale = ReturnType<typeof timeScale>;

export type Sample = NightAnswer["first"]["view"]["samples"][number];

/** A minute is about a pixel wide: every fifth of those that are shown is drawn. */
export const drawn = (all: Sample[], [first, last]: [number, number]) =>
  all.filter((s, i) => i % 5 === 0 && s.at_s >= first && s.at_s <= last);

/** How wide five minutes are, px. */
export const slotOf = (x: TimeScale) => {
  const first = x.domain()[0] ?? 0;
  return Math.max(1, x(first + 300) - x(first));
};
