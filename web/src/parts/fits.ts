const isRecord = (v: unknown): v is Record<string, unknown> => typeof v === "object" && v !== null && !Array.isArray(v);

/**
 * Whether a value read from somewhere has the shape of another: the same kinds of value at the same places. Null stands for
 * anything, lists may be of any length with rows like the first, and a plain value may be missing; an object or a list may not.
 */
export function fits(value: unknown, like: unknown): boolean {
  if (like === null || like === undefined || value === null)
    return value !== undefined || like === undefined || like === null;
  if (Array.isArray(like)) return Array.isArray(value) && (like.length === 0 || value.every((v) => fits(v, like[0])));
  if (!isRecord(like)) return typeof value === typeof like;
  if (!isRecord(value)) return false;
  return Object.entries(like).every(([key, part]) => {
    const own = value[key];
    return own === undefined ? typeof part !== "object" || part === null : fits(own, part);
  });
}
