import { useCallback, useMemo, useRef } from "react";
import { toast } from "sonner";
import { useCommands } from "./shortcuts";

/** Says that something was taken away, with the way back: a button in the message, and the key u. */
export function useOfferUndo() {
  const last = useRef<(() => void) | null>(null);
  useCommands(
    useMemo(
      () => [{ id: "undo-last", label: "Undo what was last taken away", keys: "u", run: () => last.current?.() }],
      [],
    ),
  );
  return useCallback((said: string, way: () => Promise<unknown>) => {
    const back = () => {
      if (last.current === back) last.current = null;
      toast.dismiss(id);
      way().catch((e: Error) => toast.error(e.message, { duration: 10_000 }));
    };
    last.current = back;
    const id = toast(said, { duration: 15_000, action: { label: "Undo", onClick: back } });
  }, []);
}
