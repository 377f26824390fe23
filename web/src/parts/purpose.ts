import type { CompareQuestion } from "@/api/client";

/** What a picture is for: how clean its parts shall be. */
export type Purpose = NonNullable<CompareQuestion["purpose"]>;

const KEY = "salt-lamp.purpose";

const KNOWN: Record<Purpose, true> = { first_look: true, picture: true, print: true };

/** What this browser's user usually wants: new comparisons begin with it. */
export function usualPurpose(): Purpose | undefined {
  try {
    const kept = localStorage.getItem(KEY) ?? "";
    return kept in KNOWN ? (kept as Purpose) : undefined;
  } catch {
    return undefined;
  }
}

export function rememberPurpose(purpose: Purpose) {
  try {
    localStorage.setItem(KEY, purpose);
  } catch {
    // A browser that keeps nothing begins with the usual picture.
  }
}
