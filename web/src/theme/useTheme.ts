import { useCallback, useSyncExternalStore } from "react";

export const THEMES = ["lamp", "ember", "daylight"] as const;
export type Theme = (typeof THEMES)[number];
export const THEME_LABELS: Record<Theme, string> = {
  lamp: "Lamp: dark, for the evening",
  ember: "Ember: deep red, for dark-adapted eyes",
  daylight: "Daylight: for a desk",
};

const listeners = new Set<() => void>();
const read = (): Theme => THEMES.find((t) => t === document.documentElement.dataset.theme) ?? "lamp";

/** The theme, and a way to change it that outlives the page. */
export function useTheme(): [Theme, (theme: Theme) => void] {
  const theme = useSyncExternalStore((on) => {
    listeners.add(on);
    return () => listeners.delete(on);
  }, read);
  const set = useCallback((next: Theme) => {
    document.documentElement.dataset.theme = next;
    try {
      localStorage.setItem("salt-lamp.theme", next);
    } catch {
      // A browser without storage forgets the theme; nothing else is lost.
    }
    for (const on of listeners) on();
  }, []);
  return [theme, set];
}
