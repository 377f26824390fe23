import { useEffect } from "react";

/** Names the page in the browser's tab, history and bookmarks. */
export function useTitle(what: string) {
  useEffect(() => {
    document.title = `${what} · Salt Lamp`;
  }, [what]);
}
