import { useCallback, useState } from "react";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { ProblemError, type Scenario, type StoredScenario } from "@/api/client";
import { useAddScenario, useSaveScenario } from "@/api/mutations";
import { fail } from "@/parts/fail";
import type { useDraft } from "./useDraft";

type Draft = ReturnType<typeof useDraft>;

/** Saving a comparison: over what it started from, over what somebody saved meanwhile, or as a copy. */
export function useSaving({ draft: scenario, stored, setStored, baseRevision }: Draft) {
  const go = useNavigate();
  const [add, put] = [useAddScenario(), useSaveScenario()];
  const [conflict, setConflict] = useState<StoredScenario | null>(null);
  const [saving, setSaving] = useState(false);

  const saveCopy = useCallback(async () => {
    try {
      const body: Scenario = { ...scenario, title: `${scenario.title} (mine)`.slice(0, 200) };
      const copy = await add(body);
      setStored(conflict ?? stored, true);
      setConflict(null);
      void go(`/bench/${copy.id}`);
      toast.success("Saved as a comparison of its own");
    } catch (e) {
      toast.error((e as Error).message);
    }
  }, [scenario, conflict, stored, setStored, add, go]);

  const refused = useCallback(
    (e: unknown) => {
      const problem = e instanceof ProblemError ? e.problem : undefined;
      if (problem?.status === 412 && problem.current) setConflict(problem.current as StoredScenario);
      else if (problem?.status === 404)
        toast.error("This comparison was deleted meanwhile. Save it as a copy to keep your draft.", {
          action: { label: "Save a copy", onClick: () => void saveCopy() },
        });
      else fail(e);
    },
    [saveCopy],
  );

  const save = useCallback(
    async (over?: number) => {
      setSaving(true);
      try {
        setStored(await put({ id: stored.id, over: over ?? baseRevision, scenario }), false);
        setConflict(null);
        toast.success("Saved");
      } catch (e) {
        refused(e);
      } finally {
        setSaving(false);
      }
    },
    [scenario, stored.id, baseRevision, setStored, refused, put],
  );

  const takeTheirs = () => {
    if (!conflict) return;
    setStored(conflict, true);
    setConflict(null);
  };
  return { save, saveCopy, saving, conflict, takeTheirs, closeConflict: () => setConflict(null) };
}
