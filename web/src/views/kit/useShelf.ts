import { toast } from "sonner";
import { ProblemError, type ShelfEntry, type StoredEntry } from "@/api/client";
import { useAddEntry, useMakeUsual, useOwnEntry, useRemoveEntry, useRestoreEntry, useSaveEntry } from "@/api/mutations";
import { fail } from "@/parts/fail";
import type { useOfferUndo } from "@/parts/useOfferUndo";

/** What can be done on the shelf; `choose` opens a thing that was added or came back. */
export function useShelf(choose: (id: string) => void, offerUndo: ReturnType<typeof useOfferUndo>) {
  const [addOne, removeOne, restoreOne, saveOne] = [useAddEntry(), useRemoveEntry(), useRestoreEntry(), useSaveEntry()];
  const [ownOne, makeUsual] = [useOwnEntry(), useMakeUsual()];
  const restore = async (id: string) => {
    await restoreOne(id);
    choose(id);
  };
  const add = async (entry: ShelfEntry) => {
    try {
      choose((await addOne(entry)).id);
    } catch (e) {
      fail(e);
    }
  };
  const remove = async ({ id, entry }: StoredEntry) => {
    try {
      const { removed } = await removeOne(id);
      const said =
        removed === "archived"
          ? `"${entry.name}" is used in a comparison or a rig, so it was put away instead of deleted`
          : `Deleted "${entry.name}"`;
      offerUndo(said, () => restore(id));
    } catch (e) {
      fail(e);
    }
  };
  /** Saves over a revision: `null` where it is saved, else what was wrong. */
  const save = async ({ id }: StoredEntry, entry: ShelfEntry, over: number): Promise<ProblemError | null> => {
    try {
      await saveOne({ id, over, entry });
      toast.success("Saved");
      return null;
    } catch (e) {
      if (e instanceof ProblemError) return e;
      fail(e);
      return null;
    }
  };
  /** Says that a thing is owned, or is not. */
  const own = ({ id, mine }: StoredEntry) => ownOne({ id, mine: !mine }).catch(fail);
  /** Makes it the one of its kind with which everything begins. */
  const usual = ({ id }: StoredEntry) => makeUsual(id).catch(fail);
  return { add, remove, restore, save, own, usual };
}
