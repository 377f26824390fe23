import { Popover } from "radix-ui";
import type { ReactNode } from "react";

type Props = {
  /** What it holds, for screen readers. */
  label: string;
  /** Classes for its width, and for its padding where that is another. */
  className: string;
  children: ReactNode;
};

/** What opens from a trigger: a card over the page, as high as there is room, within a `Popover.Root`. */
export function Card({ label, className, children }: Props) {
  return (
    <Popover.Portal>
      <Popover.Content
        sideOffset={6}
        collisionPadding={10}
        aria-label={label}
        className={`rise z-30 max-h-(--radix-popover-content-available-height) overflow-y-auto rounded-xl border border-edge bg-surface shadow-2xl shadow-black/50 ${className}`}
      >
        {children}
      </Popover.Content>
    </Popover.Portal>
  );
}
