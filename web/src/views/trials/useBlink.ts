import { useEffect, useState } from "react";

/** Turns over and over while it is on; where motion is not wanted, at each press of b. */
export function useBlink(on: boolean) {
  const [second, setSecond] = useState(false);
  useEffect(() => {
    if (!on) return;
    if (!window.matchMedia("(prefers-reduced-motion: reduce)").matches) {
      const timer = setInterval(() => setSecond((s) => !s), 800);
      return () => clearInterval(timer);
    }
    const press = (e: KeyboardEvent) => {
      if (e.key === "b") setSecond((s) => !s);
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, [on]);
  return second;
}
