import type { CompareQuestion, Goal } from "@/api/client";

/** What a picture is for: how clean its parts shall be. */
export type Purpose = NonNullable<CompareQuestion["purpose"]>;

export const PURPOSES = [
  { id: "first_look", label: "A first look", snr: 3 },
  { id: "picture", label: "A picture", snr: 10 },
  { id: "print", label: "A large print", snr: 20 },
] as const satisfies readonly { id: Purpose; label: string; snr: number }[];

export const snrOf = (purpose: Purpose): number => PURPOSES.find((p) => p.id === purpose)?.snr ?? 10;

/** The purpose that all goals share; "" where they are of several, or of the user's own making. */
export const purposeOf = (goals: readonly Goal[]): Purpose | "" =>
  PURPOSES.find((p) => goals.every((g) => (g.snr ?? 10) === p.snr))?.id ?? "";

const KEY = "salt-lamp.purpose";

/** What this browser's user usually wants: new comparisons begin with it. */
export function usualPurpose(): Purpose | undefined {
  try {
    const kept = localStorage.getItem(KEY);
    return PURPOSES.find((p) => p.id === kept)?.id;
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
