import { X } from "lucide-react";
import { Dialog } from "radix-ui";
import type { ReactNode } from "react";
import { Button } from "./Button";

type Props = {
  title: string;
  /** The button that opens it. */
  trigger: ReactNode;
  open: boolean;
  setOpen: (open: boolean) => void;
  /** As wide as a table needs, or as words do. */
  wide?: boolean;
  /** What can be had of it, beside its title. */
  actions?: ReactNode;
  children: ReactNode;
};

/** A sheet over the page with a title and a way out. */
export function Sheet({ title, trigger, open, setOpen, wide, actions, children }: Props) {
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger asChild>{trigger}</Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-shade/60" />
        <Dialog.Content
          aria-describedby={undefined}
          className={`rise fixed top-[8vh] left-1/2 z-50 max-h-[86vh] -translate-x-1/2 overflow-auto rounded-xl border border-edge bg-surface p-5 shadow-2xl shadow-black/50 ${wide ? "w-[min(76rem,96vw)]" : "w-[min(48rem,96vw)]"}`}
        >
          <div className="mb-2 flex flex-wrap items-center gap-1.5">
            <Dialog.Title className="grow text-lg">{title}</Dialog.Title>
            {actions}
            <Dialog.Close asChild>
              <Button look="quiet" aria-label="Close" className="px-2">
                <X size={16} aria-hidden />
              </Button>
            </Dialog.Close>
          </div>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
