import { useEffect } from "react";

export type Command = { id: string; label: string; keys?: string; run: () => void };

type Source = () => Command[];
const sources = new Set<Source>();
export const commands = (): Command[] => [...sources].flatMap((s) => s());

/** Offers commands to the palette and the keyboard while the calling component is on screen. */
export function useCommands(list: Command[]) {
  useEffect(() => {
    const source = () => list;
    sources.add(source);
    return () => {
      sources.delete(source);
    };
  }, [list]);
}

const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement && (target.matches("input, textarea, select") || target.isContentEditable);

const KEPT = "salt-lamp.keys";

/** Whether single keys do anything; a browser remembers what its user chose. Ctrl keys always do. */
export const keysOn = (): boolean => {
  try {
    return localStorage.getItem(KEPT) !== "off";
  } catch {
    return true;
  }
};
export function setKeysOn(on: boolean) {
  try {
    localStorage.setItem(KEPT, on ? "on" : "off");
  } catch {
    // A browser that keeps nothing has its keys on.
  }
}

/** Open lists, menus and dialogs: in them letters choose, and what lies behind is not meant. */
const OPEN = "[role=listbox],[role=menu],[role=dialog],[role=alertdialog]";
/** Those that cover the page; a small panel beside its field leaves saving and undoing to the keyboard. */
const covers = (e: Element) => e.closest("[data-radix-popper-content-wrapper]") === null || !e.matches("[role=dialog]");
const inTheWay = (mod: boolean) => [...document.querySelectorAll(OPEN)].some((e) => !mod || covers(e));

/** Listens for the keys of all commands: single keys ("u"), a key after g ("g b"), and Mod+key ("Mod+S"). */
export function useKeys() {
  useEffect(() => {
    let afterG = 0;
    const onKey = (e: KeyboardEvent) => {
      if (e.defaultPrevented || e.altKey) return;
      const mod = e.ctrlKey || e.metaKey;
      const key = e.key.length === 1 ? e.key.toLowerCase() : e.key;
      let pressed: string;
      if (mod) pressed = `Mod+${e.shiftKey ? "Shift+" : ""}${key.toUpperCase()}`;
      else if (typing(e.target)) return;
      else if (Date.now() - afterG < 1500) pressed = `g ${key}`;
      else pressed = key;
      if (!mod && key === "g" && !pressed.startsWith("g ")) {
        afterG = Date.now();
        return;
      }
      afterG = 0;
      if (inTheWay(mod) || (!mod && !keysOn())) return;
      const hit = commands().find((c) => c.keys === pressed);
      if (hit) {
        e.preventDefault();
        hit.run();
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
}
