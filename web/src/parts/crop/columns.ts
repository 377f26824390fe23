/** Least width of a crop beside others, px. */
const LEAST_WIDTH = 165;

/** In how many columns so many crops fill their rows at a width: all in one, else halves, else one below another. */
export function columnsFor(count: number, width: number): number {
  const fits = (n: number) => width / n >= LEAST_WIDTH;
  const whole = Array.from({ length: Math.min(4, count) }, (_, i) => Math.min(4, count) - i).filter(fits);
  return whole.find((n) => count % n === 0 && n > 1) ?? (count > 4 ? whole[0] : undefined) ?? 1;
}
