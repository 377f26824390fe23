import { Dialog } from "radix-ui";
import { Button } from "./controls/Button";

type Props = {
  /** What is stored now. */
  theirs: { title: string; changed_at: string };
  onTheirs: () => void;
  onCopy: () => void;
  onOver: () => void;
  onClose: () => void;
};

/** Two tabs saved one thing: nothing was overwritten, and the user decides. */
export function ConflictDialog({ theirs, onTheirs, onCopy, onOver, onClose }: Props) {
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-shade/60" />
        <Dialog.Content className="rise fixed top-[20vh] left-1/2 z-50 w-[min(34rem,92vw)] -translate-x-1/2 rounded-xl border border-edge bg-surface p-6 shadow-2xl shadow-black/50">
          <Dialog.Title className="text-lg">Somebody saved this first</Dialog.Title>
          <Dialog.Description className="mt-2 text-muted">
            "{theirs.title}" was saved at {new Date(theirs.changed_at).toLocaleTimeString()} from another tab or
            machine. Nothing was overwritten, and your draft is still here.
          </Dialog.Description>
          <div className="mt-5 flex flex-wrap gap-2">
            <Button look="lit" onClick={onCopy}>
              Save mine as a copy
            </Button>
            <Button onClick={onTheirs}>Show theirs instead</Button>
            <Button look="danger" onClick={onOver}>
              Save mine over theirs
            </Button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
