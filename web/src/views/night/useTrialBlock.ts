import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { sheetQuery, trialsQuery } from "@/api/trials";
import { contenderMark } from "@/theme/marks";

/** A trial's hours in a night, which the plan leaves free. */
export type TrialBlock = { id: string; title: string; from_s: number; to_s: number; order: string };

/** The trial that is taken on an evening, and where in it: at a site of its own it has no place here. */
export function useTrialBlock(id: string | null, date: string, site: string | undefined) {
  const trials = useQuery(trialsQuery).data ?? [];
  const stored = trials.find((t) => t.id === id);
  const here = stored !== undefined && stored.trial.site === site;
  const sheet = useQuery({ ...sheetQuery(stored?.id ?? "", stored?.revision ?? 0, date), enabled: here });
  const laid = here ? sheet.data?.sheet : undefined;
  const block = useMemo<TrialBlock | null>(() => {
    const [from_s, to_s] = laid?.span_s ?? [];
    if (!stored || !laid || from_s === undefined || to_s === undefined) return null;
    const order = laid.slots.map((s) => contenderMark(s.kind).letter).join("");
    return { id: stored.id, title: stored.trial.title, from_s, to_s, order };
  }, [stored, laid]);
  const elsewhere = stored !== undefined && !here;
  return { trials, stored, block, elsewhere, told: laid?.told ?? [] };
}
