import { scaleLinear } from "d3-scale";
import type { NightAnswer } from "@/api/client";
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

/** How targets' heights are drawn, and what stands for that before their names: dashes, for the moon has the dots. */
const TARGET_MARKS = [
  { colour: "var(--salt)", dash: "", sign: "──" },
  { colour: "var(--c2)", dash: "9 4", sign: "─ ─" },
  { colour: "var(--c4)", dash: "10 3 2 3", sign: "─ · ─" },
  { colour: "var(--c5)", dash: "5 3", sign: "- - -" },
  { colour: "var(--c1)", dash: "18 5", sign: "── ──" },
  { colour: "var(--c0)", dash: "12 3 2 3 2 3", sign: "─ ·· ─" },
] as const;
export const targetMark = (whose: number) => TARGET_MARKS[whose % TARGET_MARKS.length] ?? TARGET_MARKS[0];

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
