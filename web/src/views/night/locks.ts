import type { LockedBlock } from "@/api/client";

/** The blocks that stay, target by target, the first one's first. */
export type Locks = readonly (readonly LockedBlock[])[];
export const NO_LOCKS: Locks = [];

/** Those of one target. */
export const locksOf = (locks: Locks, target: number): readonly LockedBlock[] => locks[target] ?? [];

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
  if (locks.every((l) => l.length === 0)) return null;
  return [stamp(where), ...locks.map(written)].join("_").replace(/_+$/, "");
}

const read = (text: string | undefined): LockedBlock[] =>
  (text ?? "").split("~").flatMap((part) => {
    const [exposure = Number.NaN, from = Number.NaN, length = Number.NaN] = part.split(".").map(Number);
    const good = Number.isInteger(exposure) && exposure >= 0 && Number.isFinite(from) && length > 0;
    return good ? [{ exposure, from_s: from, to_s: from + length }] : [];
  });

/** Reads what {@link writeLocks} wrote; those of another night are none. */
export function readLocks(where: string, text: string | null): Locks {
  const [of, ...each] = (text ?? "").split("_");
  const locks = of === stamp(where) ? each.map(read) : [];
  return locks.some((l) => l.length > 0) ? locks : NO_LOCKS;
}

/** The locks with those of one target replaced. */
export function withLocks(locks: Locks, target: number, own: readonly LockedBlock[]): Locks {
  return Array.from({ length: Math.max(locks.length, target + 1) }, (_, i) => (i === target ? own : locksOf(locks, i)));
}

/** The locks with one block where it was moved to, in the place of the lock that held it (`was`), if one did. */
export function moved(locks: Locks, target: number, was: LockedBlock, to: LockedBlock): Locks {
  const held = (l: LockedBlock) => l.exposure === was.exposure && Math.abs(l.from_s - was.from_s) < 1;
  return withLocks(locks, target, [...locksOf(locks, target).filter((l) => !held(l)), to]);
}

/** The locks of a night that a target has left: those behind it move up. */
export const leftBy = (locks: Locks, target: number): Locks => locks.filter((_, i) => i !== target);
