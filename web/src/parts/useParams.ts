import { useCallback } from "react";
import { useSearchParams } from "react-router";

/**
 * The parameters of the address, and a way to edit them that leaves no trail in the history.
 *
 * An edit starts from the address as it is now, not as it was when the page was last drawn: two edits close together both stay.
 */
export function useParamsEdit(): [URLSearchParams, (edit: (params: URLSearchParams) => void) => void] {
  const [params, setParams] = useSearchParams();
  const edit = useCallback(
    (change: (p: URLSearchParams) => void) => {
      const next = new URLSearchParams(window.location.search);
      const before = next.toString();
      change(next);
      if (next.toString() !== before) setParams(next, { replace: true });
    },
    [setParams],
  );
  return [params, edit];
}
