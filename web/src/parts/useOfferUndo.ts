import { useCallback, useMemo } from "react";
import { toast } from "sonner";
import { fail } from "@/parts/fail";
import { useCommands } from "./shortcuts";

/** The way back from what was last taken away: one for the whole page, whoever offered it. */
let last: (() => void) | null = null;

/**
 * Says that something was taken away, with the way back: a button in the message, and the key u. What is shown as gone before it is done
 * hands its `done` along: the way back is offered at once and goes when that has come; what is refused needs no way back.
 */
export function useOfferUndo() {
  useCommands(
    useMemo(() => [{ id: "undo-last", label: "Undo what was last taken away", keys: "u", run: () => last?.() }], []),
  );
  return useCallback((said: string, way: () => Promise<unknown>, done: Promise<unknown> = Promise.resolve()) => {
    const forget = () => {
      if (last === back) last = null;
      toast.dismiss(id);
    };
    const back = () => {
      forget();
      done.then(way, () => {}).catch(fail);
    };
    last = back;
    const id = toast(said, { duration: 15_000, action: { label: "Undo", onClick: back } });
    done.catch((e: Error) => {
      forget();
      fail(e);
    });
  }, []);
}
