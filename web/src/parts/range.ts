import { RANGES } from "@/api/ranges";

type Schema = keyof typeof RANGES;
type Bounds = { min: number; max: number; usual?: number };
const all: Record<string, Record<string, Bounds>> = RANGES;

const bounds = (schema: string, field: string): Bounds => {
  const found = all[schema]?.[field];
  if (!found) throw new Error(`The core says no range for ${field} of ${schema}.`);
  return found;
};

/** What the core accepts for a number of a document; `times` for a field that shows it in another unit (100 for per cent). */
export function range<S extends Schema>(schema: S, field: keyof (typeof RANGES)[S] & string, times = 1) {
  const { min, max } = bounds(schema, field);
  return { min: Number((min * times).toPrecision(12)), max: Number((max * times).toPrecision(12)) };
}

/** What a number of a document is worth that was left out. */
export const usual = <S extends Schema>(schema: S, field: keyof (typeof RANGES)[S] & string): number =>
  bounds(schema, field).usual ?? 0;

/**
 * The part of what the core accepts over which a slider is dragged: as narrow as a hand can aim; what lies beyond is typed. It never
 * offers what the core refuses.
 */
export function dragged<S extends Schema>(
  schema: S,
  field: keyof (typeof RANGES)[S] & string,
  [from, to]: [number, number],
  times = 1,
) {
  const { min, max } = range(schema, field, times);
  return { min: Math.max(min, from), max: Math.min(max, to) };
}
