import { useEffect, useRef, useState } from "react";
import { fits } from "./fits";
import { same } from "./same";

/** Something typed and not saved yet, and the revision that it started from. */
export type SavedDraft<T> = { revision: number; draft: T };
const DRAFT = "salt-lamp.draft.";
const UNFIT = "salt-lamp.unfit.";

/**
 * What an earlier visit left behind, if it still has the shape of what is stored (`like`). A draft that has not (one of another
 * version, or a damaged one) is put aside, so that it neither breaks the page nor is lost: see [`unfit`].
 */
export function savedDraft<T>(id: string, like: T): SavedDraft<T> | null {
  try {
    const text = localStorage.getItem(DRAFT + id);
    if (!text) return null;
    const found = parsed(text) as Partial<SavedDraft<T>> | undefined;
    if (typeof found?.revision === "number" && fits(found.draft, like)) return found as SavedDraft<T>;
    localStorage.setItem(UNFIT + id, text);
    localStorage.removeItem(DRAFT + id);
    return null;
  } catch {
    return null;
  }
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

/** The text of a draft that was put aside; null for none. */
export function unfit(id: string): string | null {
  try {
    return localStorage.getItem(UNFIT + id);
  } catch {
    return null;
  }
}

export const discardUnfit = (id: string) => localStorage.removeItem(UNFIT + id);

/** Every draft in this browser, with its text. */
export function draftsHere(): { id: string; text: string; discard: () => void }[] {
  try {
    return Object.keys(localStorage)
      .filter((key) => key.startsWith(DRAFT))
      .map((key) => ({
        id: key.slice(DRAFT.length),
        text: localStorage.getItem(key) ?? "",
        discard: () => localStorage.removeItem(key),
      }));
  } catch {
    return [];
  }
}

export function saveDraft<T>(id: string, value: SavedDraft<T> | null) {
  try {
    if (value) localStorage.setItem(DRAFT + id, JSON.stringify(value));
    else localStorage.removeItem(DRAFT + id);
  } catch {
    // Without storage the draft lives as long as the page.
  }
}

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
    /** Takes something else instead, with the revision that it is. */
    take: (draft: T, at: number) => set({ draft, revision: at }),
  };
}
