import { produce } from "immer";
import { useEffect, useRef, useState } from "react";
import { same } from "./same";
import { type SavedDraft, saveDraft, savedDraft } from "./savedDraft";

/** A draft after something was stored anew: one that held nothing of its own takes it, any other stays on what it started from. */
export function afterStored<T>(state: SavedDraft<T>, before: T, stored: T, revision: number): SavedDraft<T> {
  const own = !same(state.draft, before) && !same(state.draft, stored);
  return own ? state : { revision, draft: stored };
}

/** A thing under edit over what is stored: kept in this browser over every way of leaving it, until it is saved or discarded. */
export function useSavedDraft<T>(id: string, stored: T, revision: number) {
  const [state, set] = useState<SavedDraft<T>>(() => savedDraft<T>(id, stored) ?? { revision, draft: stored });
  const before = useRef(stored);
  const dirty = !same(state.draft, stored);
  useEffect(() => {
    const was = before.current;
    before.current = stored;
    set((s) => afterStored(s, was, stored, revision));
  }, [stored, revision]);
  useEffect(() => saveDraft(id, dirty ? state : null), [id, dirty, state]);
  return {
    draft: state.draft,
    /** The revision that the draft started from: a save over anything newer is a conflict. */
    baseRevision: state.revision,
    dirty,
    setDraft: (draft: T) => set((s) => ({ ...s, draft })),
    /** Changes the draft as it is by then. */
    edit: (how: (draft: T) => void) => set((s) => ({ ...s, draft: produce(s.draft, (d) => void how(d as T)) })),
    /** Takes something else instead, with the revision that it is. */
    take: (draft: T, at: number) => set({ draft, revision: at }),
  };
}
