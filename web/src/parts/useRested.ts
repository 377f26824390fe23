import { useEffect, useState } from "react";

/** A value once it has stopped changing for `ms`: what follows a drag instead of every step of it. */
export function useRested<T>(value: T, ms: number): T {
  const [rested, setRested] = useState(value);
  useEffect(() => {
    const timer = window.setTimeout(() => setRested(value), ms);
    return () => window.clearTimeout(timer);
  }, [value, ms]);
  return rested;
}
