import { Dialog } from "radix-ui";
import { useRef } from "react";
import { focusMain, overlay, panel } from "./dialog";
import { Found } from "./Found";

/** What can be done from here, found by typing. */
export function Palette({ open, setOpen }: { open: boolean; setOpen: (open: boolean) => void }) {
  const from = useRef("");
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Portal>
        <Dialog.Overlay className={overlay} />
        <Dialog.Content
          className={`${panel} top-[16vh] w-[min(36rem,92vw)]`}
          aria-describedby={undefined}
          onOpenAutoFocus={() => {
            from.current = window.location.pathname;
          }}
          onCloseAutoFocus={(e) => {
            // Gone to another view: its content is where reading goes on, not what opened the palette.
            if (window.location.pathname === from.current) return;
            e.preventDefault();
            focusMain();
          }}
        >
          <Dialog.Title className="sr-only">Command palette</Dialog.Title>
          {open && <Found close={() => setOpen(false)} />}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
