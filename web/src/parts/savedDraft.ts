import { fits } from "./fits";

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
