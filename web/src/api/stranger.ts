import { useSyncExternalStore } from "react";

let stranger = false;
const listeners = new Set<() => void>();
const tell = () => {
  for (const listener of listeners) listener();
};

/** Said to the window when a browser was let in again: what could not be asked is asked anew. */
export const LET_IN = "salt-lamp:let-in";

/** The server does not know who asks: the passphrase is wanted. */
export function turnedAway() {
  if (stranger) return;
  stranger = true;
  tell();
}

/** The server knows this browser again. */
export function letIn() {
  stranger = false;
  tell();
  window.dispatchEvent(new Event(LET_IN));
}

const subscribe = (listener: () => void) => {
  listeners.add(listener);
  return () => void listeners.delete(listener);
};

/** Whether the passphrase is wanted before anything else. */
export const useStranger = () => useSyncExternalStore(subscribe, () => stranger);
