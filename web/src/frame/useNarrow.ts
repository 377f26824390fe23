import { useSyncExternalStore } from "react";

const query = "(max-width: 639px)";
const watch = (on: () => void) => {
  const media = window.matchMedia(query);
  media.addEventListener("change", on);
  return () => media.removeEventListener("change", on);
};

/** Whether the window is as narrow as a phone. */
export const useNarrow = () => useSyncExternalStore(watch, () => window.matchMedia(query).matches);
