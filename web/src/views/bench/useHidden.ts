import { useMemo } from "react";

const read = (params: URLSearchParams, many: number): ReadonlySet<number> => {
  const places = (params.get("hidden") ?? "").split(",").map(Number);
  return new Set(places.filter((i) => i > 0 && i < many));
};

/** Rows out of sight. They stand in the address by their place; the baseline stays in sight. */
export function useHidden(
  params: URLSearchParams,
  param: (edit: (p: URLSearchParams) => void) => void,
  many: number,
  selected: number,
) {
  const hidden = useMemo(() => read(params, many), [params, many]);
  const hide = (i: number, away: boolean) =>
    param((p) => {
      const next = [...read(p, many)].filter((h) => h !== i);
      if (away) next.push(i);
      if (next.length) p.set("hidden", next.sort((a, b) => a - b).join(","));
      else p.delete("hidden");
      if (away && selected === i) p.set("row", "0");
    });
  return { hidden, hide };
}
