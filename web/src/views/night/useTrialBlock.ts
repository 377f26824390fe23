import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { sheetQuery, trialsQuery } from "@/api/trials";

/** A trial's hours in a night, which the plan leaves free. */
export type TrialBlock = { id: string; title: string; from_s: number; to_s: number; order: string };

/** The trial that is taken on an evening, and where in it: at a site of its own it has no place here. */
export function useTrialBlock(id: string | null, date: string, site: string | undefined) {
  const trials = useQuery(trialsQuery).data ?? [];
  const stored = trials.find((t) => t.id === id);
  const here = stored !== undefined && stored.trial.site === site;
  const sheet = useQuery({ ...sheetQuery(stored?.id ?? "", stored?.revision ?? 0, date), enabled: here });
  const slots = here ? sheet.data?.sheet.slots : undefined;
  const block = useMemo<TrialBlock | null>(() => {
    const [first, last] = [slots?.[0], slots?.at(-1)];
    if (!stored || !slots || !first || !last) return null;
    // The filter is changed and the focus found before the first frame.
    const from_s = first.from_s - (stored.trial.design?.change_s ?? 0);
    const order = slots.map((s) => String.fromCharCode(65 + s.kind)).join("");
    return { id: stored.id, title: stored.trial.title, from_s, to_s: last.to_s, order };
  }, [stored, slots]);
  const elsewhere = stored !== undefined && !here;
  return { trials, stored, block, elsewhere, told: here ? (sheet.data?.sheet.told ?? []) : [] };
}
