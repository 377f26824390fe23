import { useCallback } from "react";
import { useSearchParams } from "react-router";

/** The parameters of the address, and a way to edit them that leaves no trail in the history. */
export function useParamsEdit(): [URLSearchParams, (edit: (params: URLSearchParams) => void) => void] {
  const [params, setParams] = useSearchParams();
  const edit = useCallback(
    (change: (p: URLSearchParams) => void) =>
      setParams(
        (was) => {
          const next = new URLSearchParams(was);
          change(next);
          return next;
        },
        { replace: true },
      ),
    [setParams],
  );
  return [params, edit];
}
