import type { SubCriterion } from "@/api/client";

/** How the schools of sub length are called. */
export const SCHOOL_LABELS: Record<SubCriterion, string> = {
  best: "Most per hour",
  excess: "Read noise share",
  swamp: "Swamp factor",
  histogram_adu: "Histogram, ADU",
  histogram_fraction: "Histogram, share",
  test_shot: "Test shot",
  longest: "Longest",
  many_frames: "Many frames",
};
