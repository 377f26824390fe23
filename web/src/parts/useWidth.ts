import { type RefObject, useEffect, useState } from "react";

/** The width of an element, in whole pixels, as it changes; 0 before it is known. */
export function useWidth(box: RefObject<Element | null>): number {
  const [width, setWidth] = useState(0);
  useEffect(() => {
    if (!box.current) return;
    const watch = new ResizeObserver(([entry]) => entry && setWidth(Math.floor(entry.contentRect.width)));
    watch.observe(box.current);
    return () => watch.disconnect();
  }, [box]);
  return width;
}
