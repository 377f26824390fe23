import {
  Ellipsis,
  Gem,
  Info,
  Library,
  Moon,
  NotebookText,
  Radio,
  Scale,
  SlidersHorizontal,
  Sparkles,
  Telescope,
} from "lucide-react";
import { Popover } from "radix-ui";
import { useState } from "react";
import { NavLink } from "react-router";
import { at } from "@/api/base";
import { Tip } from "@/parts/controls/Button";
import { ThemeSwitch } from "./ThemeSwitch";

/** In the order of work. On a phone, what is used in the dark comes first and the rest stands behind one button. */
export const VIEWS = [
  { path: "/tonight", key: "h", label: "Tonight", Icon: Sparkles, dark: true },
  { path: "/targets", key: "t", label: "Targets", Icon: Telescope, dark: false },
  { path: "/bench", key: "b", label: "Bench", Icon: SlidersHorizontal, dark: true },
  { path: "/night", key: "n", label: "Night", Icon: Moon, dark: true },
  { path: "/now", key: "o", label: "Now", Icon: Radio, dark: true },
  { path: "/campaign", key: "c", label: "Campaign", Icon: Gem, dark: true },
  { path: "/log", key: "l", label: "Log", Icon: NotebookText, dark: false },
  { path: "/trials", key: "r", label: "Trials", Icon: Scale, dark: false },
  { path: "/kit", key: "k", label: "Kit", Icon: Library, dark: false },
] as const;
const ABOUT = { path: "/about", key: "a", label: "About", Icon: Info } as const;

const link =
  "flex flex-col items-center gap-1 rounded-lg text-[0.82rem] text-muted transition-colors hover:text-ink aria-[current=page]:bg-raised aria-[current=page]:text-salt";

type Item = { path: string; label: string; key: string; Icon: typeof Moon };

/** The rail of views at the side. */
export function Rail({ help }: { help: () => void }) {
  return (
    <nav
      aria-label="Views"
      className="sticky top-0 row-span-2 flex h-dvh flex-col items-center gap-1 overflow-y-auto bg-well py-3 print:hidden"
    >
      <img src={at("/lamp.svg")} alt="Salt Lamp" className="mb-2 size-8" />
      {[...VIEWS, ABOUT].map(({ path, label, Icon, key }: Item) => (
        <Tip key={path} text={`${label} (g ${key})`}>
          <NavLink to={path} className={`${link} w-16 py-2 ${path === ABOUT.path ? "mt-auto" : ""}`}>
            <Icon size={19} strokeWidth={1.7} aria-hidden />
            {label}
          </NavLink>
        </Tip>
      ))}
      <ThemeSwitch upright />
      <HelpButton help={help} />
    </nav>
  );
}

/** The bar of views at the bottom of a phone. */
export function Bar({ help }: { help: () => void }) {
  const [open, setOpen] = useState(false);
  const close = () => setOpen(false);
  return (
    <nav
      aria-label="Views"
      className="fixed inset-x-0 bottom-0 z-20 grid h-14 grid-cols-6 gap-0.5 border-t border-edge bg-well px-2 py-1 print:hidden"
    >
      {VIEWS.filter((v) => v.dark).map(({ path, label, Icon }) => (
        <NavLink key={path} to={path} onClick={close} className={`${link} justify-center gap-0.5`}>
          <Icon size={19} strokeWidth={1.7} aria-hidden />
          {label}
        </NavLink>
      ))}
      <Popover.Root open={open} onOpenChange={setOpen}>
        <Popover.Trigger className={`${link} justify-center gap-0.5`}>
          <Ellipsis size={19} aria-hidden />
          More
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content
            side="top"
            align="end"
            sideOffset={8}
            collisionPadding={8}
            aria-label="More"
            className="rise z-30 flex min-w-44 flex-col gap-1 rounded-xl border border-edge bg-surface p-2 shadow-2xl shadow-black/50"
          >
            {[...VIEWS.filter((v) => !v.dark), ABOUT].map(({ path, label, Icon }: Item) => (
              <NavLink
                key={path}
                to={path}
                onClick={close}
                className="flex min-h-[40px] items-center gap-3 rounded-lg px-3 hover:bg-raised aria-[current=page]:text-salt"
              >
                <Icon size={19} strokeWidth={1.7} aria-hidden />
                {label}
              </NavLink>
            ))}
            <div className="flex items-center justify-between gap-2 border-t border-edge pt-2">
              <ThemeSwitch upright={false} />
              <HelpButton help={help} />
            </div>
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
    </nav>
  );
}

function HelpButton({ help }: { help: () => void }) {
  return (
    <button type="button" onClick={help} className="mt-1 rounded px-2 py-1 text-[0.82rem] text-muted hover:text-ink">
      Keys <kbd className="num">?</kbd>
    </button>
  );
}
