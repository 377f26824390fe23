import { useEffect, useRef, useState } from "react";
import { same } from "./same";

/** Something typed and not saved yet, and the revision that it started from. */
export type Kept<T> = { revision: number; draft: T };
const key = (id: string) => `salt-lamp.draft.${id}`;

/** What an earlier visit left behind. */
export function kept<T>(id: string): Kept<T> | null {
  try {
    const text = localStorage.getItem(key(id));
    return text ? (JSON.parse(text) as Kept<T>) : null;
  } catch {
    return null;
  }
}

export function keep<T>(id: string, value: Kept<T> | null) {
  try {
    if (value) localStorage.setItem(key(id), JSON.stringify(value));
    else localStorage.removeItem(key(id));
  } catch {
    // Without storage the draft lives as long as the page.
  }
}

/** A draft after something was stored anew: one that held nothing of its own takes it, any other stays on what it started from. */
export function afterStored<T>(state: Kept<T>, before: T, stored: T, revision: number): Kept<T> {
  const own = !same(state.draft, before) && !same(state.draft, stored);
  return own ? state : { revision, draft: stored };
}

/** A thing under edit over what is stored: kept in this browser over every way of leaving it, until it is saved or discarded. */
export function useKept<T>(id: string, stored: T, revision: number) {
  const [state, set] = useState<Kept<T>>(() => kept<T>(id) ?? { revision, draft: stored });
  const before = useRef(stored);
  const dirty = !same(state.draft, stored);
  useEffect(() => {
    const was = before.current;
    before.current = stored;
    set((s) => afterStored(s, was, stored, revision));
  }, [stored, revision]);
  useEffect(() => keep(id, dirty ? state : null), [id, dirty, state]);
  return {
    draft: state.draft,
    /** The revision that the draft started from: a save over anything newer is a conflict. */
    base: state.revision,
    dirty,
    setDraft: (draft: T) => set((s) => ({ ...s, draft })),
    /** Takes something else instead, with the revision that it is. */
    take: (draft: T, at: number) => set({ draft, revision: at }),
  };
}
