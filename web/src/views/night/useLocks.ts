import { useMemo, useState } from "react";
import type { LockedBlock, PlanBlock } from "@/api/client";
import { useParamsEdit } from "@/parts/useParams";
import { type Locks, leftBy, locksOf, moved, NO_LOCKS, readLocks, withLocks, writeLocks } from "./locks";

/** Most changes that can be undone. */
const MOST = 30;

/**
 * The blocks of one night that stay where they are (`where` names the night). They stand in the address: a reload keeps them, and a link
 * carries them.
 */
export function useLocks(where: string) {
  const [params, edit] = useParamsEdit();
  const written = params.get("locks");
  const locked = useMemo(() => readLocks(where, written), [where, written]);
  const [past, setPast] = useState<{ where: string; list: Locks[] }>({ where, list: [] });
  const history = past.where === where ? past.list : [];
  const write = (p: URLSearchParams, locks: Locks) => {
    const text = writeLocks(where, locks);
    if (text) p.set("locks", text);
    else p.delete("locks");
  };
  const change = (how: (locked: Locks) => Locks) =>
    edit((p) => {
      // The address as it is by now: two quick moves both stay.
      const now = readLocks(where, p.get("locks"));
      setPast((was) => ({ where, list: [...(was.where === where ? was.list.slice(-MOST) : []), now] }));
      write(p, how(now));
    });
  return {
    locked,
    lock: (whose: number, was: LockedBlock, to: LockedBlock) => change((now) => moved(now, whose, was, to)),
    toggle: (whose: number, b: PlanBlock) =>
      change((now) => {
        const all = locksOf(now, whose);
        const others = all.filter((l) => !(l.exposure === b.exposure && l.from_s < b.to_s && l.to_s > b.from_s));
        const own = { exposure: b.exposure, from_s: b.from_s, to_s: b.to_s };
        return withLocks(now, whose, others.length < all.length ? others : [...others, own]);
      }),
    /** A target leaves the night, and its locks with it; for an edit of the address that takes it out. */
    leave: (p: URLSearchParams, whose: number) => write(p, leftBy(readLocks(where, p.get("locks")), whose)),
    unlockAll: () => change(() => NO_LOCKS),
    canUndo: history.length > 0,
    undo: () => {
      const last = history.at(-1);
      if (!last) return;
      edit((p) => write(p, last));
      setPast({ where, list: history.slice(0, -1) });
    },
  };
}
