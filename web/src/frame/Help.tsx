import { Dialog } from "radix-ui";
import { useState } from "react";
import { commands, keysOn, setKeysOn } from "@/parts/shortcuts";
import { overlay, panel, shownKeys } from "./dialog";

/** The list of keys. */
export function Help({ open, setOpen }: { open: boolean; setOpen: (open: boolean) => void }) {
  const list = open ? commands().filter((c) => c.keys) : [];
  const [on, setOn] = useState(keysOn);
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Portal>
        <Dialog.Overlay className={overlay} />
        <Dialog.Content className={`${panel} top-[14vh] w-[min(30rem,92vw)] p-5`} aria-describedby={undefined}>
          <Dialog.Title className="mb-3 text-lg">Keyboard</Dialog.Title>
          <dl className="grid grid-cols-[1fr_auto] gap-x-6 gap-y-1.5">
            {list.map((c) => (
              <div key={c.id} className="contents">
                <dt>{c.label}</dt>
                <dd className="num text-right text-amber">{shownKeys(c.keys ?? "")}</dd>
              </div>
            ))}
            <dt>Move a slider by a step, by ten</dt>
            <dd className="num text-right text-amber">arrows, Page Up</dd>
          </dl>
          <label className="mt-4 flex items-center gap-2">
            <input
              type="checkbox"
              className="accent-salt"
              checked={on}
              onChange={(e) => {
                setKeysOn(e.target.checked);
                setOn(e.target.checked);
              }}
            />
            Single keys do what stands beside them; keys with Ctrl always do
          </label>
          <Dialog.Close className="mt-4 rounded-md border border-edge bg-raised px-3 py-1">Close</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
