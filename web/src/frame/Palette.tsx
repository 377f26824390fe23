import { Command as Cmdk } from "cmdk";
import { Dialog } from "radix-ui";
import { useRef } from "react";
import { commands } from "@/parts/shortcuts";
import { focusMain, overlay, panel, shownKeys } from "./dialog";

/** Every word that was typed stands in the command: nothing is offered for letters that lie scattered in it. */
const holds = (command: string, typed: string) =>
  typed
    .toLowerCase()
    .split(/\s+/)
    .every((word) => command.toLowerCase().includes(word))
    ? 1
    : 0;

/** What can be done from here, found by typing. */
export function Palette({ open, setOpen }: { open: boolean; setOpen: (open: boolean) => void }) {
  const from = useRef("");
  const list = open ? commands().filter((c) => c.id !== "palette") : [];
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
          <Cmdk label="Commands" loop filter={holds}>
            <Cmdk.Input
              placeholder="What do you want to do?"
              className="w-full border-b border-edge bg-transparent px-4 py-3 text-[1.05rem] outline-none placeholder:text-muted"
            />
            <Cmdk.List className="max-h-80 overflow-y-auto p-1.5">
              <Cmdk.Empty className="px-3 py-4 text-muted">Nothing by that name.</Cmdk.Empty>
              {list.map((c) => (
                <Cmdk.Item
                  key={c.id}
                  value={c.label}
                  onSelect={() => {
                    setOpen(false);
                    c.run();
                  }}
                  className="flex items-center justify-between rounded-md px-3 py-1.5 data-[selected=true]:bg-raised"
                >
                  {c.label}
                  {c.keys && <kbd className="num text-[0.85rem] text-muted">{shownKeys(c.keys)}</kbd>}
                </Cmdk.Item>
              ))}
            </Cmdk.List>
          </Cmdk>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
