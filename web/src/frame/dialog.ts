/** What the dialogs of the frame share. */

export const overlay = "fixed inset-0 z-40 bg-shade/60";
export const panel =
  "rise fixed left-1/2 z-50 -translate-x-1/2 overflow-hidden rounded-xl border border-edge bg-surface shadow-2xl shadow-black/50";

const SHOWN_KEYS: Record<string, string> = {
  "Mod+K": "Ctrl K",
  "Mod+S": "Ctrl S",
  "Mod+Shift+Z": "Ctrl Shift Z",
  "Mod+Z": "Ctrl Z",
};
/** Keys as they are printed on a keyboard. */
export const shownKeys = (keys: string) => SHOWN_KEYS[keys] ?? keys;

/** Puts the focus on the content, from its beginning. */
export function focusMain() {
  document.getElementById("main")?.focus({ preventScroll: true });
}
