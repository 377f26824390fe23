import type { ContenderAnswer, ExposureAnswer, Quantity } from "@/api/client";

/** The exposure of a path that records the quantity best. */
export function bestExposure(answer: ContenderAnswer | undefined, quantity: Quantity): number {
  const passes = (e: ExposureAnswer) => e.stages[quantity]?.filter ?? 0;
  const list = answer?.exposures ?? [];
  return list.reduce((best, e, i) => (passes(e) > passes(list[best] ?? e) ? i : best), 0);
}
