import { useEffect, useRef, useState } from "react";
import { type Theme, useTheme } from "@/theme/useTheme";

/** Something that this browser remembers between visits. */
export function useKept<T extends string>(key: string, first: T): [T, (next: T) => void] {
  const [value, set] = useState<T>(() => {
    try {
      return (localStorage.getItem(key) as T | null) ?? first;
    } catch {
      return first;
    }
  });
  return [
    value,
    (next) => {
      set(next);
      try {
        localStorage.setItem(key, next);
      } catch {
        // It holds as long as the page.
      }
    },
  ];
}

/** Ember while it is night and the page is open, unless its user chose otherwise; the theme of before comes back. */
export function useEmberByNight(isDark: boolean, wanted: boolean) {
  const [theme, set] = useTheme();
  const before = useRef<Theme | null>(null);
  const inForce = isDark && wanted;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the theme that is there as this begins comes back at its end
  useEffect(() => {
    if (!inForce) return;
    before.current = theme;
    set("ember");
    return () => {
      if (before.current) set(before.current);
    };
  }, [inForce, set]);
}

/** Keeps the screen on where the browser allows that: over a secure connection. */
export function useWakeLock(wanted: boolean) {
  useEffect(() => {
    if (!wanted || !("wakeLock" in navigator)) return;
    let lock: WakeLockSentinel | undefined;
    let over = false;
    const ask = () =>
      navigator.wakeLock
        .request("screen")
        .then((l) => {
          if (over) void l.release();
          else lock = l;
        })
        .catch(() => {});
    // It is let go whenever the page is out of sight.
    const seen = () => document.visibilityState === "visible" && void ask();
    void ask();
    document.addEventListener("visibilitychange", seen);
    return () => {
      over = true;
      document.removeEventListener("visibilitychange", seen);
      void lock?.release();
    };
  }, [wanted]);
}

/** One short, low tone. */
function tone() {
  try {
    const audio = new AudioContext();
    const [source, gain] = [audio.createOscillator(), audio.createGain()];
    source.frequency.value = 330;
    gain.gain.setValueAtTime(0.15, audio.currentTime);
    gain.gain.exponentialRampToValueAtTime(0.001, audio.currentTime + 0.6);
    source.connect(gain).connect(audio.destination);
    source.start();
    source.stop(audio.currentTime + 0.6);
    source.onended = () => void audio.close();
  } catch {
    // A browser without sound stays silent.
  }
}

/** Says something once: as a message of the browser where that is allowed, with a tone where one is wanted. */
export function useAlarm(what: string | null, sound: boolean) {
  const said = useRef<string | null>(null);
  useEffect(() => {
    if (what === null || what === said.current) return;
    said.current = what;
    if (sound) tone();
    if ("Notification" in window && Notification.permission === "granted")
      new Notification("Salt Lamp", { body: what });
  }, [what, sound]);
}
