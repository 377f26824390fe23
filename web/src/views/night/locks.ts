import type { LockedBlock } from "@/api/client";

export type Whose = "first" | "second";
export type Locks = Record<Whose, LockedBlock[]>;
export const NO_LOCKS: Locks = { first: [], second: [] };

/** A short number for a text: locks carry it, so that those of another night are told apart. */
const stamp = (text: string) => {
  let h = 0x811c9dc5;
  for (const c of text) h = Math.imul(h ^ (c.codePointAt(0) ?? 0), 0x01000193) >>> 0;
  return h.toString(36);
};

const written = (list: readonly LockedBlock[]) =>
  list.map((l) => `${l.exposure}.${l.from_s.toFixed(0)}.${(l.to_s - l.from_s).toFixed(0)}`).join("~");

/** Blocks that stay, for the address: they belong to one night of one rig at one site (`where`); null where there are none. */
export function writeLocks(where: string, locks: Locks): string | null {
  if (locks.first.length + locks.second.length === 0) return null;
  return [stamp(where), written(locks.first), written(locks.second)].join("_");
}

const read = (text: string | undefined): LockedBlock[] =>
  (text ?? "").split("~").flatMap((part) => {
    const [exposure = Number.NaN, from = Number.NaN, length = Number.NaN] = part.split(".").map(Number);
    const good = Number.isInteger(exposure) && exposure >= 0 && Number.isFinite(from) && length > 0;
    return good ? [{ exposure, from_s: from, to_s: from + length }] : [];
  });

/** Reads what {@link writeLocks} wrote; those of another night are none. */
export function readLocks(where: string, text: string | null): Locks {
  const [of, first, second] = (text ?? "").split("_");
  return of === stamp(where) ? { first: read(first), second: read(second) } : NO_LOCKS;
}

/** The locks with one block where it was moved to, in the place of the lock that held it (`was`), if one did. */
export function moved(locks: Locks, whose: Whose, was: LockedBlock, to: LockedBlock): Locks {
  const other = locks[whose].filter((l) => !(l.exposure === was.exposure && Math.abs(l.from_s - was.from_s) < 1));
  return { ...locks, [whose]: [...other, to] };
}
