import { scaleLinear } from "d3-scale";
import type { NightAnswer } from "@/api/client";
import { contenderMark } from "@/theme/marks";
import { nightSpan } from "./minutes";

/** Margins and heights of the night's picture, px. */
export const PAD = { left: 112, right: 18, top: 22 };
export const SKY = 210;
export const RIBBON = 19;
export const BLOCK = 44;
/** Fingers want more room than a mouse. */
export const COARSE = typeof matchMedia === "function" && matchMedia("(pointer: coarse)").matches;
export const CLOUD = COARSE ? 40 : 16;
/** How wide the edge is by which a block is made longer or shorter. */
export const EDGE = COARSE ? 24 : 8;

/** Where a filter's ribbon begins, px from the top. */
export const ribbonTop = (i: number) => PAD.top + SKY + 30 + i * (RIBBON + 3);
/** The ribbons of every target's filters, one below the other. */
export const ribbonsOf = (night: NightAnswer) =>
  [night.first, ...night.others].flatMap((of, target) =>
    of.filters.map((filter, exposure) => ({ of, target, filter, exposure })),
  );

/** Where the axis stands on which cloudy hours are struck out, px from the top. */
export const cloudTop = (night: NightAnswer) => ribbonTop(ribbonsOf(night).length) + 6;

/** A row of blocks a target. */
export const blockRows = (night: NightAnswer) =>
  [night.first, ...night.others].map((of, whose) => ({
    whose,
    of,
    top: cloudTop(night) + CLOUD + 8 + whose * (BLOCK + 6),
    rim: whose === 0 ? "var(--ground)" : targetMark(whose).colour,
  }));

export const heightOf = (night: NightAnswer) =>
  cloudTop(night) + CLOUD + 14 + BLOCK + night.others.length * (BLOCK + 6);

/** How a target's height is drawn: the first in salt, the others in the colours and dashes of rows. */
export const targetMark = (whose: number) =>
  whose === 0 ? { colour: "var(--salt)", dash: "" } : contenderMark([2, 4, 5, 1, 0][whose - 1] ?? 2);

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
